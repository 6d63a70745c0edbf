import { request as ask, type IncomingMessage } from 'node:http';
import { gunzipSync, gzipSync } from 'node:zlib';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';
import { until } from '../../../core/src/testing/until.ts';

const { lowmere } = testDatabases();

let service: TestService;
let large: TestService;
let drop: () => Promise<void>;

beforeAll(async () => {
  service = await startService(lowmere);
  const fresh = await freshDatabase('ephoros_bounds', [
    'create table big (id int primary key, cell text, data jsonb, bin bytea)',
    `insert into big select n, repeat(chr(64 + n), 40000), to_jsonb(repeat('x', 3000)), decode(repeat('ff', 5000), 'hex') from generate_series(1, 20) n`,
    'analyze',
  ]);
  ({ drop } = fresh);
  large = await startService(fresh.url, '', { answerBytes: 200_000 });
});

afterAll(async () => {
  await service.close();
  await large.close();
  await drop();
});

/** A request as it is, without what `fetch` adds or hides. */
function raw(
  path: string,
  options: { method?: string; headers?: Record<string, string>; body?: string | Buffer } = {},
): Promise<{ status: number; headers: IncomingMessage['headers']; body: Buffer }> {
  const { method = 'GET', headers = {}, body } = options;
  return new Promise((resolve, reject) => {
    const sent = ask(service.url + path, { method, headers }, (response) => {
      const chunks: Buffer[] = [];
      response.on('data', (chunk: Buffer) => chunks.push(chunk));
      response.on('end', () =>
        resolve({
          status: response.statusCode ?? 0,
          headers: response.headers,
          body: Buffer.concat(chunks),
        }),
      );
    });
    sent.on('error', reject);
    sent.end(body);
  });
}

describe('an answer', () => {
  it('ends at a whole row where it has too many bytes, and goes on from there', async () => {
    const ids: number[] = [];
    let after: string | undefined;
    for (let pages = 0; pages < 30; pages += 1) {
      const place: Record<string, string> = after === undefined ? {} : { after };
      const { status, body } = await large.get(
        rowsPath('big', { columns: 'id,cell', limit: '20', total: 'none', ...place }),
      );
      expect(status).toBe(200);
      expect(body.rows.length).toBeLessThanOrEqual(5);
      expect(body.window.count).toBe(body.rows.length);
      ids.push(...body.rows.map(({ id }: any) => id));
      expect(body.window.cut === true || body.next === null).toBe(true);
      if (body.next === null) break;
      after = body.next;
    }
    expect(ids).toEqual(Array.from({ length: 20 }, (_, n) => n + 1));
    const back = await large.get(
      rowsPath('big', { columns: 'id,cell', limit: '20', offset: '10', total: 'none' }),
    );
    expect(back.body.rows[0].id).toBe(11);
    expect(back.body.window).toMatchObject({ cut: true, links: { next: 'offset=14' } });
    // The connection that was stopped in the middle is good again.
    expect((await large.get(rowsPath('big', { columns: 'id' }))).body.rows).toHaveLength(20);
  });

  it('is refused where one row alone has too many bytes, and has its long values cut on demand', async () => {
    const tiny = await startService(lowmere, '', { answerBytes: 50 });
    const { status, body } = await tiny.get(rowsPath('passages', { total: 'none' }));
    await tiny.close();
    expect([status, body.type]).toEqual([413, 'urn:ephoros:problem:answer-too-large']);

    const cut = await large.get(rowsPath('big', { cells: '5', limit: '20', total: 'none' }));
    expect(cut.body.window.cut).toBeUndefined();
    expect(cut.body.rows[1]).toEqual({ id: 2, cell: 'BBBBB', data: '"xxxx', bin: '\\xfff' });
    expect(cut.body.cuts).toHaveLength(60);
    expect(cut.body.cuts.slice(0, 3)).toEqual([
      [0, 1],
      [0, 2],
      [0, 3],
    ]);
    const whole = await large.get(
      rowsPath('big', { cells: '100000', columns: 'id,cell', limit: '1' }),
    );
    expect(whole.body.cuts).toEqual([]);
    expect(whole.body.rows[0].cell).toHaveLength(40_000);
  });

  it('has cursors of a bounded length, whatever it is sorted by', async () => {
    const ids: number[] = [];
    let after: string | undefined;
    for (let pages = 0; pages < 30; pages += 1) {
      const place: Record<string, string> = after === undefined ? {} : { after };
      const { body } = await large.get(
        rowsPath('big', { columns: 'id', sort: '-cell,bin', limit: '3', total: 'none', ...place }),
      );
      ids.push(...body.rows.map(({ id }: any) => id));
      if (body.next === null) break;
      expect(body.next.length).toBeLessThan(2_000);
      after = body.next;
    }
    expect(ids).toEqual(Array.from({ length: 20 }, (_, n) => 20 - n));
    const gone = await large.get(
      rowsPath('big', {
        columns: 'id',
        sort: '-cell',
        limit: '3',
        after: Buffer.from(JSON.stringify(['-cell,-id', ['99']])).toString('base64url'),
      }),
    );
    expect([gone.status, gone.body.errors?.[0].code]).toEqual([400, 'cursor-row-gone']);
  });

  it('has links in a header while that is short, and their places always', async () => {
    const short = await raw(
      '/api/tables/passages/rows?limit=2&page=3&filter=note%20%3C%3E%20%27a?b%27',
    );
    expect(short.headers.link).toContain('page=4');
    // A question mark in a value cuts nothing off.
    expect(short.headers.link).toContain('a?b%27');
    const filter = encodeURIComponent(`note <> '${'x'.repeat(3_000)}'`);
    const long = await raw(`/api/tables/passages/rows?limit=2&page=3&filter=${filter}`);
    expect(long.status).toBe(200);
    expect(long.headers.link).toBeUndefined();
    expect(JSON.parse(long.body.toString()).window.links).toMatchObject({
      first: 'page=1',
      previous: 'page=2',
      next: 'page=4',
    });
  });

  it('is distinguished by its encoding: one that is compressed has no strong ETag', async () => {
    // What is counted may be reported with the time at which it was.
    const path = '/api/tables/passages/rows?limit=50&total=none';
    const forwarded = { 'x-forwarded-for': '10.0.0.9' };
    const packed = await raw(path, { headers: { ...forwarded, 'accept-encoding': 'gzip' } });
    expect(packed.headers['content-encoding']).toBe('gzip');
    expect(packed.headers.etag).toMatch(/^W\//);
    const plain = await raw(path);
    expect(plain.headers.etag).toMatch(/^"/);
    expect(gunzipSync(packed.body).toString()).toBe(plain.body.toString());
    const again = await raw(path, { headers: { 'if-none-match': plain.headers.etag ?? '' } });
    expect(again.status).toBe(304);
  });
});

describe('a request', () => {
  it.each([
    ['GET', '/api/tables/passages/query', 405, 'POST'],
    ['DELETE', '/api/tables/passages/rows', 405, 'GET, HEAD'],
    ['PUT', '/api/tables/passages/groups', 405, 'GET, HEAD, POST'],
    ['DELETE', '/api/nowhere', 404, undefined],
    ['POST', '/api/tables/passages/rows/1', 405, 'GET, HEAD'],
  ])('by %s to %s is answered %i, with what is allowed', async (method, path, status, allow) => {
    const answer = await raw(path, { method });
    expect([answer.status, answer.headers.allow]).toEqual([status, allow]);
  });

  const post = (
    body: string | Buffer,
    headers: Record<string, string> = {},
  ): ReturnType<typeof raw> =>
    raw('/api/tables/passages/query', {
      method: 'POST',
      body,
      headers: { 'content-type': 'application/json', ...headers },
    });

  it('is read without loss of digits, and not where a member stands twice', async () => {
    const filter = { op: '=', args: [{ property: 'id' }, '@'] };
    const body = (digits: string): string =>
      JSON.stringify({ filter, limit: 1 }).replace('"@"', digits);
    const one = await post(body('17'));
    expect(JSON.parse(one.body.toString()).window.total).toBe(1);
    // As a float it would be 17.
    const near = await post(body('17.00000000000000000001'));
    expect(JSON.parse(near.body.toString()).window.total).toBe(0);
    const huge = await post(body('1e400'));
    expect(JSON.parse(huge.body.toString()).window?.total).toBe(0);
    for (const twice of ['{"limit":1,"limit":2}', '{"filter":{"op":"=","op":"<","args":[]}}']) {
      const refused = await post(twice);
      expect(refused.status).toBe(400);
      expect(refused.body.toString()).toContain('repeated-member');
    }
  });

  it('in an odd encoding is refused as such', async () => {
    const text = JSON.stringify({ limit: 1 });
    expect((await post(text, { 'content-type': 'application/json; charset=klingon' })).status).toBe(
      415,
    );
    expect((await post(text, { 'content-encoding': 'zstandard' })).status).toBe(415);
    expect((await post(gzipSync(text), { 'content-encoding': 'gzip' })).status).toBe(200);
    expect((await post(text, { 'content-encoding': 'gzip' })).status).toBe(400);
  });

  it('reports the first hundred of many errors', async () => {
    const members = Object.fromEntries(Array.from({ length: 20_000 }, (_, n) => [`member${n}`, 1]));
    const { status, body } = await post(JSON.stringify(members));
    expect(status).toBe(400);
    expect(JSON.parse(body.toString()).errors.length).toBeLessThanOrEqual(100);
    expect(body.length).toBeLessThan(100_000);
  });

  it('that is long holds nobody else up', async () => {
    const conditions = Array.from({ length: 8_000 }, (_, n) => `id <> ${n}`).join(' AND ');
    const began = performance.now();
    const [refused, health] = await Promise.all([
      post(JSON.stringify({ filter: conditions })),
      raw('/health').then(() => performance.now() - began),
    ]);
    expect(refused.status).toBe(413);
    expect(refused.body.toString()).toContain('too-many-parts');
    expect(health).toBeLessThan(2_000);
    const search = await service.get(rowsPath('passages', { search: '%'.repeat(15_000) }));
    expect([search.status, search.body.errors[0].code]).toEqual([413, 'parameter-too-long']);
    const sum = Array.from({ length: 3_000 }, () => 'toll').join(' + ');
    const added = await post(JSON.stringify({ filter: `${sum} > 1` }));
    expect([added.status, added.body.toString().includes('nested-too-deep')]).toEqual([400, true]);
  });

  it('for another host is refused', async () => {
    const foreign = await raw('/api/tables', { headers: { host: 'evil.example' } });
    expect([foreign.status, JSON.parse(foreign.body.toString()).title]).toEqual([
      421,
      'Unknown host name',
    ]);
    for (const host of ['localhost:4620', '127.0.0.1', '[::1]:80']) {
      expect((await raw('/api/tables', { headers: { host } })).status).toBe(200);
    }
    const named = await startService(lowmere, '', { hostNames: ['records.example'] });
    const { port } = new URL(named.url);
    const answer = await new Promise<number>((resolve) => {
      ask({ port, path: '/health', headers: { host: 'Records.example' } }, (response) => {
        response.resume();
        resolve(response.statusCode ?? 0);
      }).end();
    });
    expect(answer).toBe(200);
    await named.close();
  });

  it('that was forwarded gets no explanation of its answer', async () => {
    const path = '/api/tables/passages/rows?limit=1&explain=true';
    expect((await raw(path)).status).toBe(200);
    expect((await raw(path, { headers: { 'x-forwarded-for': '10.0.0.9' } })).status).toBe(400);
    const silent = await startService(lowmere, '', { explain: false });
    expect((await silent.get(path)).status).toBe(400);
    await silent.close();
  });

  it('leaves the keys of rows out of the log', async () => {
    await service.get('/api/tables/boats/rows/12345678');
    await until(
      () => Promise.resolve(service.log.join('')),
      (log) => log.includes('/tables/boats/rows/'),
    );
    expect(service.log.join('')).not.toContain('12345678');
  });
});
