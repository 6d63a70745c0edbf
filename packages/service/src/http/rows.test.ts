import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere, passages } = testDatabases();
let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere, 'tables: { passages: { sort: -passed_at, rowCap: 500 } }');
});

afterAll(() => service.close());

async function ids(parameters: Record<string, string>): Promise<string[]> {
  const { body } = await service.get(
    rowsPath('passages', { columns: 'id', shape: 'arrays', ...parameters }),
  );
  return body.rows.map(([id]: [string]) => id);
}

describe('rows over HTTP', () => {
  it('come as a window with its total, by page or by offset', async () => {
    const { status, body } = await service.get(rowsPath('passages', { page: '3', limit: '20' }));
    expect(status).toBe(200);
    expect(body.window).toEqual({
      offset: 40,
      limit: 20,
      count: 20,
      total: passages,
      totalKind: 'exact',
      links: { first: 'page=1', previous: 'page=2', next: 'page=4', last: 'page=1000' },
    });
    expect(body.rows).toHaveLength(20);
    expect(Object.keys(body.rows[0])).toEqual(body.columns);
    expect(await ids({ offset: '40', limit: '20' })).toEqual(
      body.rows.map(({ id }: { id: string }) => id),
    );
  });

  it('hold columns in the order requested, as objects or arrays', async () => {
    const { body } = await service.get(
      rowsPath('passages', { columns: 'toll,id', limit: '1', sort: 'id' }),
    );
    expect(body.columns).toEqual(['toll', 'id']);
    expect(Object.keys(body.rows[0])).toEqual(['toll', 'id']);
    const arrays = await service.get(
      rowsPath('passages', { columns: 'toll,id', limit: '1', sort: 'id', shape: 'arrays' }),
    );
    expect(arrays.body.rows).toEqual([Object.values(body.rows[0])]);
  });

  it('are counted as hard as requested, and it is stated how', async () => {
    // A service that has counted nothing yet: what is known exactly is never reported as an estimate.
    const fresh = await startService(lowmere, 'tables: { passages: {} }');
    const window = async (parameters: Record<string, string>): Promise<any> =>
      (await fresh.get(rowsPath('passages', { limit: '1', ...parameters }))).body.window;
    expect(await window({ total: 'none' })).toMatchObject({ total: null, totalKind: 'none' });
    expect(await window({ total: 'estimate' })).toMatchObject({
      total: passages,
      totalKind: 'estimate',
    });
    const estimate = await window({ total: 'estimate', filter: "status = 'disputed'" });
    expect(estimate.totalKind).toBe('estimate');
    expect(estimate.total).toBeGreaterThan(0);
    expect(estimate.total).toBeLessThan(passages / 10);
    await fresh.close();
  });

  it('stop at the row cap, which is reported', async () => {
    const { body } = await service.get(rowsPath('passages', { limit: '100000', total: 'none' }));
    expect(body.rows).toHaveLength(500);
    expect(body.window).toMatchObject({ limit: 500, rowCap: 500 });
  });

  it('end where the result ends', async () => {
    expect(await ids({ offset: String(passages - 3), limit: '50' })).toHaveLength(3);
    expect(await ids({ offset: '99999999999' })).toEqual([]);
  });

  it('link to the pages around them (RFC 8288)', async () => {
    const { headers } = await service.get(rowsPath('passages', { limit: '50', page: '2' }));
    const links = headers.get('link') ?? '';
    const address = (relation: string): string =>
      /<([^>]*)>/.exec(
        links.split(', ').find((link) => link.includes(`rel="${relation}"`)) ?? '',
      )?.[1] ?? '';
    expect(address('first')).toContain('page=1');
    expect(address('prev')).toContain('page=1');
    expect(address('next')).toContain('page=3');
    expect(address('last')).toContain(`page=${passages / 50}`);
    const last = await service.get(address('last'));
    expect(last.body.window.count).toBe(50);
    expect(last.headers.get('link')).not.toContain('rel="next"');
  });

  it('tell how long each stage took, and which request they are', async () => {
    const { headers } = await service.get(rowsPath('passages', { limit: '1' }));
    for (const stage of ['parse', 'check', 'wait', 'database', 'encode']) {
      expect(headers.get('server-timing')).toMatch(new RegExp(`${stage};dur=\\d+\\.\\d`));
    }
    const id = headers.get('x-request-id') ?? '';
    const lines = service.log.filter((line) => line.includes(id));
    expect(lines).toHaveLength(1);
  });

  it('answer 304 to who has them already', async () => {
    const first = await service.get(rowsPath('passages', { limit: '5' }));
    const tag = first.headers.get('etag') ?? '';
    expect(tag).toMatch(/^"/);
    const second = await service.get(rowsPath('passages', { limit: '5' }), {
      'If-None-Match': tag,
      // Without it Node's fetch asks for a fresh answer.
      'Cache-Control': 'max-age=0',
    });
    expect(second.status).toBe(304);
  });

  it('keep values of a filter out of the log', async () => {
    await service.get(rowsPath('passages', { filter: "note = 'a secret'" }));
    await service.get(rowsPath('passages', { filter: "note = 'a secret' AND" }));
    expect(service.log.join('')).not.toContain('secret');
  });

  it('come singly by their key', async () => {
    const { status, body } = await service.get('/api/tables/passages/rows/5?columns=id,lock_id');
    expect(status).toBe(200);
    expect(body).toEqual({ table: 'passages', row: { id: '5', lock_id: expect.any(Number) } });
  });

  it.each([
    "status = 'disputed' AND toll > 100",
    "NOT (toll > 100) OR note LIKE '%10\\%%'",
    'toll IS NULL OR keeper_id IS NULL AND lock_id BETWEEN 3 AND 9',
    "status NOT IN ('passed', 'corrected') AND passed_at >= DATE('2020-01-01')",
    "CASEI(note) LIKE CASEI('%HERON%') AND passed_at < TIMESTAMP('2025-06-01T00:00:00+02:00')",
    "wait_minutes > lock_id AND crossing > 'PT30M'",
    "note = 'Skipper''s papers not at hand' OR note = 'C:\\log\\lock: sensor 4 dead'",
    'boat_id IN (1, 2, 3) AND toll <> 12.5 AND lock_id < 1.5',
  ])('match %s as PostgreSQL understands it', async (filter) => {
    const sql = filter
      .replace(/DATE\('(.*?)'\)/g, "timestamptz '$1 00:00:00Z'")
      .replace(/TIMESTAMP\('(.*?)'\)/g, "timestamptz '$1'")
      .replace(/CASEI\(/g, 'lower(');
    const { rows } = await direct(`select count(*)::int as n from passages where ${sql}`);
    const { status, body } = await service.get(rowsPath('passages', { filter, limit: '1' }));
    expect(status).toBe(200);
    expect(rows[0].n).toBeGreaterThan(0);
    expect(body.window.total).toBe(rows[0].n);
  });

  it.each([
    ['-toll', 'toll desc nulls last, id desc', {}],
    ['toll,-status', 'toll asc nulls last, status desc, id desc', {}],
    ['toll', 'toll asc nulls first, id asc', { nulls: 'first' }],
    ['-note,keeper_id', 'note desc nulls last, keeper_id asc nulls last, id asc', {}],
    ['status,-keeper_id', 'status asc, keeper_id desc nulls last, id desc', {}],
    [
      '-keeper_id,-toll',
      'keeper_id desc nulls first, toll desc nulls first, id desc',
      { nulls: 'first' },
    ],
  ])('stand in the order of %s on every page', async (sort, order, more) => {
    const { rows } = await direct(
      `select id::text as key from passages where lock_id = 5 order by ${order}`,
    );
    const expected = rows.map(({ key }: { key: string }) => key);
    const walked: string[] = [];
    for (let page = 1; walked.length < expected.length && page < 30; page += 1) {
      walked.push(
        ...(await ids({ filter: 'lock_id = 5', sort, page: String(page), limit: '97', ...more })),
      );
    }
    expect(expected.length).toBeGreaterThan(200);
    expect(walked).toEqual(expected);
  });
});

async function direct(statement: string): Promise<{ rows: any[] }> {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: lowmere });
  await client.connect();
  await client.query('set timezone = UTC');
  try {
    return await client.query(statement);
  } finally {
    await client.end();
  }
}

describe('a request that cannot be answered', () => {
  it('has every error of every parameter at once', async () => {
    const { status, headers, body } = await service.get(
      "/api/tables/passages/rows?fliter=x&filter=tol+%3E+'x'&sort=-pased_at&limit=0&page=1&offset=2&columns=%zz&total=none&total=none",
    );
    expect(status).toBe(400);
    expect(headers.get('content-type')).toContain('application/problem+json');
    expect(body).toMatchObject({
      type: 'urn:ephoros:problem:bad-query',
      status: 400,
      requestId: headers.get('x-request-id'),
    });
    expect(body.errors.map(({ code, parameter }: any) => [code, parameter])).toEqual([
      ['malformed-escape', 'columns'],
      ['repeated-parameter', 'total'],
      ['unknown-parameter', 'fliter'],
      ['not-a-whole-number', 'limit'],
      ['conflicting-parameters', 'offset'],
      ['unknown-column', 'filter'],
      ['unknown-column', 'sort'],
    ]);
  });

  it('places an error behind escapes, plus signs and emoji in the decoded text', async () => {
    const filter = "note = '🛶 100% a+b' AND tol > 1";
    const { body } = await service.get(
      `/api/tables/passages/rows?filter=${encodeURIComponent(filter).replaceAll('%20', '+')}`,
    );
    const [{ position, length }] = body.errors;
    expect(filter.slice(position, position + length)).toBe('tol');
  });

  it.each([
    ['/api/tables/pasages', 404, 'not-found'],
    ['/api/tables/pasages/rows', 404, 'not-found'],
    ['/api/tables/passages/rows/0', 404, 'not-found'],
    ['/api/tables/passages/rows/abc', 404, 'not-found'],
    ['/api/tables/passages/rows/1,2', 400, 'bad-query'],
    ['/api/tables/passages/rows/%E0%A4%A', 400, 'bad-query'],
    ['/api/tables/%zz', 400, 'bad-query'],
    ['/api/nothing', 404, 'not-found'],
    ['/nothing', 404, 'not-found'],
    ['/api/tables?x=1', 400, 'bad-query'],
  ])('%s answers %i %s', async (path, status, slug) => {
    const answer = await service.get(path);
    expect(answer.status).toBe(status);
    expect(answer.body).toMatchObject({ type: `urn:ephoros:problem:${slug}`, status });
    expect(answer.body.detail).not.toBe('');
  });

  it.each([
    [20_000, 413],
    [70_000, 413],
    [1_000_000, 431],
  ])('is told when a parameter of %i characters is too long', async (length, status) => {
    const answer = await service.get(rowsPath('passages', { filter: 'x'.repeat(length) }));
    expect(answer.status).toBe(status);
    expect(answer.body).toMatchObject({ type: 'urn:ephoros:problem:too-large', status });
  });

  it('refuses to write', async () => {
    const response = await fetch(`${service.url}/api/tables`, { method: 'POST' });
    expect(response.status).toBe(405);
    expect(response.headers.get('allow')).toBe('GET, HEAD');
  });
});

describe('next to the tables', () => {
  it('stand health, readiness, metrics and a description of the API', async () => {
    expect((await service.get('/health')).body).toEqual({ status: 'alive' });
    expect((await service.get('/ready')).body).toEqual({
      status: 'ready',
      parts: { database: 'there', records: 'not used', changes: 'not used' },
    });
    expect((await service.get('/metrics')).body).toContain('ephoros_request_seconds_count');
    const { body } = await service.get('/api/openapi.json');
    expect(body.openapi).toBe('3.1.0');
    const parameters = body.paths['/tables/{table}/rows'].get.parameters.map(
      ({ name }: any) => name,
    );
    expect(parameters).toEqual(
      expect.arrayContaining([
        'table',
        'columns',
        'filter',
        'sort',
        'limit',
        'page',
        'offset',
        'total',
        'shape',
      ]),
    );
  });
});

describe('a service with rules of access', () => {
  it('sorts by nothing that is hidden, though that is the usual sort', async () => {
    const guarded = await startService(lowmere, 'tables: { passages: { sort: -passed_at } }', {
      access: () => ({ tables: { passages: { hidden: ['passed_at'] } } }),
    });
    try {
      const { body } = await guarded.get('/api/tables/passages');
      expect(body.defaultSort).toEqual([]);
      const { status, body: answer } = await guarded.get(rowsPath('passages', { limit: '3' }));
      expect([status, answer.rows.map(({ id }: any) => Number(id))]).toEqual([200, [1, 2, 3]]);
    } finally {
      await guarded.close();
    }
  });

  it('shows everybody what is theirs, next to the pages that have none', async () => {
    const guarded = await startService(lowmere, '', {
      access: (request) =>
        request.get('X-Who') === 'keeper' ? { tables: { locks: true } } : undefined,
    });
    try {
      const keeper = { 'X-Who': 'keeper' };
      const { body } = await guarded.get('/api/tables', keeper);
      expect(body.tables.map(({ name }: any) => name)).toEqual(['locks']);
      const locks = await guarded.get(rowsPath('locks', { limit: '2' }), keeper);
      expect(locks.status).toBe(200);
      expect(locks.body.rows).toHaveLength(2);
      expect(locks.headers.get('x-content-type-options')).toBe('nosniff');
      expect((await guarded.get(rowsPath('passages'), keeper)).status).toBe(404);
      expect((await guarded.get(rowsPath('locks'))).status).toBe(401);
      expect((await guarded.get('/health')).status).toBe(200);
    } finally {
      await guarded.close();
    }
  });
});

describe('a database that was made by another program', () => {
  it('is published without any configuration', async () => {
    const database = await freshDatabase('ephoros_pgbench', [
      'create table pgbench_accounts (aid int not null, bid int, abalance int, filler char(84))',
      'create table pgbench_history (tid int, bid int, aid int, delta int, mtime timestamp, filler char(22))',
      'alter table pgbench_accounts add primary key (aid)',
      "insert into pgbench_accounts select n, 1, 0, 'x' from generate_series(1, 1000) n",
      'insert into pgbench_history select 1, 1, n, n, now() from generate_series(1, 100) n',
    ]);
    const other = await startService(database.url);
    try {
      const { body } = await other.get('/api/tables');
      expect(body.tables.map(({ name }: any) => name)).toEqual([
        'pgbench_accounts',
        'pgbench_history',
      ]);
      const accounts = await other.get(
        rowsPath('pgbench_accounts', { filter: "filler = 'x'", sort: '-aid', limit: '2' }),
      );
      expect(accounts.body.rows.map(({ aid }: any) => aid)).toEqual([1000, 999]);
      const history = await other.get('/api/tables/pgbench_history');
      expect(history.body.key).toEqual([]);
      expect(history.body.remarks).toHaveLength(1);
      const page = await other.get(rowsPath('pgbench_history', { offset: '90', limit: '50' }));
      expect(page.body.rows.map(({ aid }: any) => aid)).toEqual([
        91, 92, 93, 94, 95, 96, 97, 98, 99, 100,
      ]);
      expect((await other.get('/api/tables/pgbench_history/rows/1')).body.errors[0].code).toBe(
        'no-key',
      );
    } finally {
      await other.close();
      await database.drop();
    }
  });
});
