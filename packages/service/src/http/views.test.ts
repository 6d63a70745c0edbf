import type { Request } from 'express';
import express from 'express';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { viewAnswer } from '../../../core/src/view/index.ts';
import { createRouter } from '../index.ts';
import { codesIn, sendTo, type Answered } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

let service: TestService;
let records: { url: string; drop: () => Promise<void> };

beforeAll(async () => {
  records = await freshDatabase('kept_views', []);
  service = await startService(lowmere, '', { records: records.url });
});

afterAll(async () => {
  await service.close();
  await records.drop();
});

interface QueryOptions {
  readonly url?: string;
  readonly headers?: Record<string, string>;
}

const send = (
  method: string,
  path: string,
  body?: unknown,
  { url = `${service.url}/api`, headers = {} }: QueryOptions = {},
): Promise<Answered> => sendTo(method, `${url}/views${path}`, body, { headers });

const change = (
  id: string,
  body: unknown,
  version: string,
  sending: QueryOptions = {},
): Promise<Answered> =>
  send('PATCH', `/${id}`, body, {
    ...sending,
    headers: { ...sending.headers, 'If-Match': version },
  });

const names = ({ body }: Answered): string[] => body.views.map(({ name }: any) => name);

const disputed = {
  version: 1,
  filter: "status = 'disputed'",
  sort: '-toll',
  columns: ['id', 'toll'],
};
let count = 0;
/** A view under a name of its own. */
const wanted = (more: object = {}): any => {
  count += 1;
  return { table: 'passages', name: `view ${count}`, view: disputed, ...more };
};
const made = async (more: object = {}, sending: QueryOptions = {}): Promise<any> => {
  const answer = await send('POST', '', wanted(more), sending);
  expect(answer).toMatchObject({ status: 201 });
  return answer.body;
};

describe('a saved view', () => {
  it('is made, read, found, changed and dropped', async () => {
    const answer = await send('POST', '', wanted({ name: ' Dear disputes ', note: 'for Mondays' }));
    expect(answer.status).toBe(201);
    const { body } = answer;
    expect(answer.headers.get('Location')).toBe(`/api/views/${body.id}`);
    expect(body).toMatchObject({
      table: 'passages',
      name: 'Dear disputes',
      note: 'for Mondays',
      view: disputed,
      left: [],
      shared: false,
      first: false,
      own: true,
      by: null,
      version: 1,
    });
    expect((await send('GET', `/${body.id}`)).body).toEqual(body);
    expect(viewAnswer.strict().parse(body)).toEqual(body);
    for (const search of ['search=dear', 'search=MONDAY', 'table=passages&search=ear+disp']) {
      expect(names(await send('GET', `?${search}`))).toEqual(['Dear disputes']);
    }
    expect(names(await send('GET', '?search=100%25'))).toEqual([]);
    expect(names(await send('GET', '?table=locks'))).toEqual([]);
    const changed = await change(
      body.id,
      { name: 'Disputes', view: { version: 1, limit: 20 } },
      '"1"',
    );
    expect(changed.status).toBe(200);
    expect(changed.body).toMatchObject({
      name: 'Disputes',
      note: 'for Mondays',
      view: { version: 1, limit: 20 },
      version: 2,
    });
    expect((await send('DELETE', `/${body.id}`)).status).toBe(204);
    expect(codesIn(await send('GET', `/${body.id}`))).toEqual(['id unknown-view']);
    expect((await send('DELETE', `/${body.id}`)).status).toBe(404);
  });

  it('is not overwritten by who has not seen what it is now', async () => {
    const { id } = await made();
    const read = await send('GET', `/${id}`);
    const tag = read.headers.get('ETag') ?? '';
    expect(
      (
        await send('GET', `/${id}`, undefined, {
          headers: { 'If-None-Match': tag, 'Cache-Control': 'max-age=0' },
        })
      ).status,
    ).toBe(304);
    expect(await send('PATCH', `/${id}`, { note: 'a' })).toMatchObject({ status: 428 });
    const [one, other] = await Promise.all([
      change(id, { note: 'one' }, tag),
      change(id, { note: 'other' }, tag),
    ]);
    expect([one.status, other.status].sort()).toEqual([200, 412]);
    const lost = one.status === 412 ? one : other;
    expect(codesIn(lost)).toEqual(['view-changed']);
    expect(lost.body.errors[0].hint).toContain('If-Match: "2"');
    expect(
      (await send('DELETE', `/${id}`, undefined, { headers: { 'If-Match': tag } })).status,
    ).toBe(412);
    // A proxy that compresses makes a weak tag of it.
    const now = (await send('GET', `/${id}`)).headers.get('ETag') ?? '';
    expect((await change(id, { note: 'b' }, `W/${now}`)).status).toBe(200);
    expect((await change(id, { note: 'c' }, '*')).body).toMatchObject({ note: 'c', version: 4 });
    expect((await change(id, { note: 'd' }, 'four')).status).toBe(412);
  });

  it('is listed by name, page by page', async () => {
    const name = (n: number): string => `Page ${'abcdefg'[n] ?? ''}`;
    for (const n of [3, 0, 5, 1, 4, 2, 6])
      await made({ name: name(n), table: 'locks', view: { version: 1 } });
    const first = await send('GET', '?table=locks&limit=4');
    expect(names(first)).toEqual([0, 1, 2, 3].map(name));
    const second = await send('GET', `?table=locks&limit=4&after=${first.body.next}`);
    expect(names(second)).toEqual([4, 5, 6].map(name));
    expect(second.body.next).toBeNull();
    expect(codesIn(await send('GET', '?after=xyz&limit=4'))).toEqual(['after malformed-cursor']);
    expect(codesIn(await send('GET', '?limit=0'))).toEqual(['limit not-a-whole-number']);
    expect(codesIn(await send('GET', '?tabel=locks'))).toEqual(['tabel unknown-parameter']);
    expect(codesIn(await send('GET', '?table=lock'))).toEqual(['table unknown-table']);
  });

  it('has a name that no other of its caller’s of the table has, whatever its case', async () => {
    const { name, id } = await made();
    const again = await send('POST', '', wanted({ name: name.toUpperCase() }));
    expect(again.status).toBe(409);
    expect(codesIn(again)).toEqual(['name view-name-taken']);
    await made({ name, table: 'boats', view: { version: 1 } });
    const other = await made();
    expect((await change(other.id, { name }, '*')).status).toBe(409);
    expect((await change(id, { name: name.toUpperCase() }, '*')).status).toBe(200);
  });

  it('is the one that its table opens with, if only one', async () => {
    const one = await made({ table: 'owners', view: { version: 1 }, first: true });
    const two = await made({ table: 'owners', view: { version: 1 } });
    const firsts = async (): Promise<string[]> =>
      names(await send('GET', '?table=owners&first=true')).sort();
    expect(await firsts()).toEqual([one.name]);
    await change(two.id, { first: true }, '*');
    expect(await firsts()).toEqual([two.name]);
    // One for its caller, and one for all.
    await change(one.id, { first: true, shared: true }, '*');
    expect(await firsts()).toEqual([one.name, two.name].sort());
    await Promise.all([one, two].map(({ id }) => change(id, { first: true, shared: true }, '*')));
    expect(await firsts()).toHaveLength(1);
  });

  it.each([
    [{ table: 'nowhere' }, ['table unknown-table'], 404],
    [
      { view: { version: 1, filter: 'tol > 1', sort: 'id,wiat', columns: ['id', 'bote'] } },
      ['view.columns unknown-column', 'view.filter unknown-column', 'view.sort unknown-column'],
      400,
    ],
    [
      { view: { version: 1, columns: ['id', 'toll', 'id'] } },
      ['view.columns repeated-column'],
      400,
    ],
    [{ view: { version: 1, filter: 'toll >' } }, ['view.filter unexpected-end'], 400],
    [{ view: { version: 2 } }, ['view.version malformed-body'], 400],
    [{ view: [] }, ['view malformed-body'], 400],
    [{ name: ' ' }, ['name malformed-body'], 400],
    [{ name: 'x'.repeat(201) }, ['name malformed-body'], 400],
    [{ shared: 'yes' }, ['shared malformed-body'], 400],
    [{ colour: 'red' }, ['colour unknown-parameter'], 400],
  ])('that cannot be kept is refused at its place: %j', async (more, expected, status) => {
    const answer = await send('POST', '', wanted(more));
    expect(answer.status).toBe(status);
    expect(codesIn(answer).sort()).toEqual(expected);
  });

  it('that cannot be read any more opens with nothing of it, and says why', async () => {
    const { id } = await made();
    const database = new pg.Client({ connectionString: records.url });
    await database.connect();
    const holding = async (text: string): Promise<any> => {
      await database.query('update ephoros.views set view = $1 where id = $2', [text, id]);
      return (await send('GET', `/${id}`)).body;
    };
    for (const [text, code] of [
      ['{"version":9,"colour":"red"}', 'newer-view'],
      ['{"version":1,', 'malformed-view'],
      ['{"version":1,"limit":"many"}', 'malformed-view'],
    ] as const) {
      expect(await holding(text)).toMatchObject({ view: { version: 1 }, left: [{ code }] });
      expect((await send('GET', '')).status).toBe(200);
    }
    // Another name takes nothing from what a newer program has stored.
    await holding('{"version":9}');
    await change(id, { note: 'still there' }, '*');
    const { rows } = await database.query('select view from ephoros.views where id = $1', [id]);
    expect(rows).toEqual([{ view: '{"version":9}' }]);
    await database.end();
    expect((await send('DELETE', `/${id}`)).status).toBe(204);
  });

  it('is nothing without records, and says so', async () => {
    const bare = await startService(lowmere);
    try {
      const answer = await send('GET', '', undefined, { url: `${bare.url}/api` });
      expect(answer.status).toBe(400);
      expect(codesIn(answer)).toEqual(['no-records']);
      expect((await bare.get('/api/tables/locks/rows')).status).toBe(200);
    } finally {
      await bare.close();
    }
  });
});

describe('views of several callers', () => {
  const accesses: Record<string, any> = {
    ada: { caller: 'ada', tables: 'all' },
    ben: { caller: 'ben', tables: { passages: { hidden: ['toll'] }, locks: true } },
    nobody: { tables: 'all' },
  };
  let server: import('node:http').Server;
  let close: () => Promise<void>;
  const as = (caller: string): QueryOptions => ({
    url: `http://127.0.0.1:${String((server.address() as AddressInfo).port)}/records`,
    headers: { 'X-Caller': caller },
  });

  beforeAll(async () => {
    const router = createRouter({
      database: lowmere,
      records: records.url,
      access: (request: Request) => accesses[request.get('X-Caller') ?? ''],
    });
    close = router.close;
    const app = express().use('/records', router);
    server = await new Promise((resolve) => {
      const listening = app.listen(0, '127.0.0.1', () => resolve(listening));
    });
  });

  afterAll(async () => {
    await new Promise((resolve) => server.close(resolve));
    await close();
  });

  it('are their own unless they are shared, and then theirs alone to change', async () => {
    const own = await made({ name: 'mine' }, as('ada'));
    const shared = await made({ name: 'ours', shared: true }, as('ada'));
    expect(shared).toMatchObject({ by: 'ada', own: true });
    const ofBen = await send('GET', '', undefined, as('ben'));
    expect(names(ofBen)).toContain('ours');
    expect(names(ofBen)).not.toContain('mine');
    expect((await send('GET', `/${own.id}`, undefined, as('ben'))).status).toBe(404);
    expect((await change(own.id, { name: 'x' }, '*', as('ben'))).status).toBe(404);
    const observed = await send('GET', `/${shared.id}`, undefined, as('ben'));
    expect(observed.body).toMatchObject({ own: false, by: 'ada' });
    for (const refused of [
      await change(shared.id, { name: 'x' }, '*', as('ben')),
      await send('DELETE', `/${shared.id}`, undefined, as('ben')),
    ]) {
      expect(refused.status).toBe(403);
      expect(codesIn(refused)).toEqual(['not-your-view']);
    }
    // A name is a caller's own, and so is the view that a table opens with.
    const ofBens = await made({ name: 'mine', view: { version: 1 }, first: true }, as('ben'));
    expect((await send('GET', `/${ofBens.id}`, undefined, as('ada'))).status).toBe(404);
    expect(names(await send('GET', '?table=passages&first=true', undefined, as('ada')))).toEqual(
      [],
    );
    await change(shared.id, { first: true }, '*', as('ada'));
    expect(
      names(await send('GET', '?table=passages&first=true', undefined, as('ben'))).sort(),
    ).toEqual(['mine', 'ours']);
  });

  it('say nothing of what is hidden from who reads them', async () => {
    const shared = await made(
      {
        name: 'by toll',
        shared: true,
        view: { ...disputed, filter: "toll > 4711 AND status = 'passed'" },
      },
      as('ada'),
    );
    const { body } = await send('GET', `/${shared.id}`, undefined, as('ben'));
    expect(body.view).toEqual({ version: 1, columns: ['id'], filter: "status = 'passed'" });
    expect(body.left.map(({ code }: any) => code)).toEqual(Array(3).fill('view-part-hidden'));
    expect(JSON.stringify(body)).not.toMatch(/toll(?!")|4711/);
    const boats = await made(
      { name: 'boats', table: 'boats', shared: true, view: { version: 1 } },
      as('ada'),
    );
    expect((await send('GET', `/${boats.id}`, undefined, as('ben'))).status).toBe(404);
    expect(names(await send('GET', '', undefined, as('ben')))).not.toContain('boats');
    expect((await send('GET', '?table=boats', undefined, as('ben'))).status).toBe(404);
  });

  it('without a name are read where they are shared, and not stored', async () => {
    expect(names(await send('GET', '?search=ours', undefined, as('nobody')))).toEqual(['ours']);
    expect(names(await send('GET', '?search=mine', undefined, as('nobody')))).toEqual([]);
    const refused = await send('POST', '', wanted(), as('nobody'));
    expect(codesIn(refused)).toEqual(['no-caller']);
  });
});
