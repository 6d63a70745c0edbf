import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import express, { type Express } from 'express';
import pg from 'pg';
import { pino } from 'pino';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import {
  createRouter,
  rule,
  type Access,
  type RouterOptions,
  type TablesRouter,
} from '../index.ts';

const { lowmere } = testDatabases();
const log: string[] = [];

interface Mounted {
  readonly url: string;
  readonly router: TablesRouter;
  get(path: string, headers?: Record<string, string>): Promise<{ status: number; body: any }>;
  close(): Promise<void>;
}

/** The router as somebody's own application has it, under a path, behind what they say. */
async function mount(
  options: Partial<RouterOptions>,
  prepare: (app: Express) => void = () => undefined,
): Promise<Mounted> {
  const logger = pino({ level: 'error' }, { write: (line: string) => log.push(line) });
  const router = createRouter({ database: lowmere, countingTime: 3_000, logger, ...options });
  const app = express();
  prepare(app);
  app.use('/inside/records', router);
  app.get('/other', (_request, response) => void response.send('mine'));
  const server = createServer(app).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    url,
    router,
    get: async (path, headers = {}) => {
      const response = await fetch(`${url}/inside/records${path}`, { headers });
      return { status: response.status, body: await response.json() };
    },
    close: async () => {
      await new Promise((resolve) => server.close(resolve));
      await router.close();
    },
  };
}

/** The router over a table `t` of its own, of which only the rows that are `mine` are visible, and nobody counts them. */
async function ruled(
  statements: readonly string[],
  work: (own: Mounted) => Promise<void>,
): Promise<void> {
  const fresh = await freshDatabase('ephoros_ruled', [...statements, 'analyze t']);
  const access = (): Access => ({ tables: { t: { rows: 'mine' } } });
  const own = await mount({ database: fresh.url, countingTime: 0, access });
  try {
    await work(own);
  } finally {
    await own.close();
    await fresh.drop();
  }
}

const postsOf = (own: Mounted, path: string): ReturnType<Mounted['get']> =>
  until(
    () => own.get(`/tables/t/mileposts?${path}`),
    ({ body }) => body.state === 'ready',
  );

describe('the router in an application of somebody else', () => {
  let pool: pg.Pool;
  let app: Mounted;

  beforeAll(async () => {
    pool = new pg.Pool({ connectionString: lowmere, max: 6 });
    app = await mount(
      { database: pool, configuration: { tables: { passages: { sort: '-passed_at' } } } },
      (own) => own.use(express.json()),
    );
  });

  afterAll(async () => {
    await app.close();
    await pool.end();
  });

  it('answers under its path, and leaves the other routes alone', async () => {
    const { status, body } = await app.get('/tables');
    expect(status).toBe(200);
    const passages = body.tables.find(({ name }: { name: string }) => name === 'passages');
    expect(passages.links.rows).toBe('/inside/records/tables/passages/rows');
    const rows = await app.get('/tables/passages/rows?limit=2&columns=id,passed_at');
    expect(rows.body.rows).toHaveLength(2);
    expect(rows.body.window.totalKind).toBe('exact');
    expect(await (await fetch(`${app.url}/other`)).text()).toBe('mine');
    expect((await app.get('/openapi.json')).body.servers).toEqual([{ url: '/inside/records' }]);
  });

  it('names errors and unknown paths as problem documents', async () => {
    const { status, body } = await app.get('/tables/passages/rows?filter=tol>1');
    expect([status, body.errors[0].parameter]).toEqual([400, 'filter']);
    expect((await app.get('/nothing')).status).toBe(404);
  });

  it('takes a body that the application has read already', async () => {
    const response = await fetch(`${app.url}/inside/records/tables/passages/query`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ filter: "status = 'disputed'", limit: '1' }),
    });
    expect(response.status).toBe(200);
  });

  it('answers with a strong ETag, and 304 to who has the answer', async () => {
    const path = `${app.url}/inside/records/tables/locks/rows?limit=1`;
    const etag = (await fetch(path)).headers.get('etag') ?? '';
    expect(etag).toMatch(/^"/);
    // Without it Node's fetch asks for a fresh answer.
    const headers = { 'If-None-Match': etag, 'Cache-Control': 'max-age=0' };
    expect((await fetch(path, { headers })).status).toBe(304);
  });

  it('leaves the sessions of a borrowed pool as they were', async () => {
    await Promise.all(
      Array.from({ length: 12 }, (_, at) => app.get(`/tables/passages/rows?offset=${at}&limit=1`)),
    );
    for (let tries = 0; tries < 8; tries += 1) {
      const { rows } = await pool.query<{ writes: string; limit: string; zone: string }>(
        `select current_setting('transaction_read_only') as writes,
          current_setting('statement_timeout') as limit, current_setting('timezone') as zone`,
      );
      const fresh = await pool.query<{ boot: string }>(
        `select reset_val as boot from pg_settings where name = 'TimeZone'`,
      );
      expect(rows[0]).toEqual({ writes: 'off', limit: '0', zone: fresh.rows[0]?.boot });
    }
    expect(pool.totalCount).toBeLessThanOrEqual(6);
  });

  it('says what is wrong with a configuration at once', () => {
    const wrong = { tables: { passages: { rowcap: 1 } } } as RouterOptions['configuration'];
    const none = undefined as unknown as string;
    expect(() => createRouter({ database: none })).toThrow(/database is undefined: give a pg pool/);
    expect(() => createRouter({ database: lowmere, configuration: wrong! })).toThrow(
      /unknown setting rowcap in tables\.passages/,
    );
  });
});

describe('who asks', () => {
  const canal = 'Wend Cut';
  const accesses: Record<string, Access | undefined> = {
    // One canal, and of it neither the tolls nor who was there.
    keeper: {
      caller: 'keeper',
      tables: {
        passages: {
          rows: rule`lock.canal.name = ${canal}`,
          hidden: ['toll', 'note', 'boat_id'],
        },
        locks: { rows: rule`canal.name = ${canal}` },
        canals: true,
      },
    },
    clerk: { tables: { locks: { columns: ['name', 'canal_id'] }, canals: { hidden: ['id'] } } },
    wrong: { tables: { passages: { hidden: ['tol'] } } },
    unruly: { caller: 'unruly', tables: { passages: { rows: "tol = 'secret'" } } },
    whole: { tables: 'all' },
    misspelt: { table: 'all' } as unknown as Access,
    missing: { tables: undefined } as unknown as Access,
    careless: { tables: { passages: { rows: undefined as unknown as string } } },
    empty: { tables: { passages: { rows: '' } } },
    barred: { tables: { passages: false, locks: true } },
  };
  let app: Mounted;
  const as = (
    who: string,
    path: string,
    parameters: Record<string, string> = {},
  ): Promise<{ status: number; body: any }> =>
    app.get(`${path}?${new URLSearchParams(parameters).toString()}`, { 'x-who': who });

  beforeAll(async () => {
    app = await mount({
      explain: true,
      access: (request) => accesses[request.headers['x-who'] as string],
    });
  });

  afterAll(() => app.close());

  it('must be known', async () => {
    const { status, body } = await as('nobody', '/tables');
    expect([status, body.title]).toEqual([401, 'Not signed in']);
  });

  it('finds the tables of their own, and no others', async () => {
    const { body } = await as('keeper', '/tables');
    expect(body.tables.map(({ name }: { name: string }) => name).sort()).toEqual([
      'canals',
      'locks',
      'passages',
    ]);
    const { status, body: refused } = await as('keeper', '/tables/boat');
    expect(status).toBe(404);
    expect(JSON.stringify(refused)).not.toContain('boats');
  });

  it('gets the rows that a rule lets through, by every question', async () => {
    const filter = `lock.canal.name = '${canal}'`;
    const total = async (who: string, more: Record<string, string>): Promise<number> =>
      (await as(who, '/tables/passages/rows', { limit: '1', ...more })).body.window.total;
    const observed = await total('keeper', {});
    expect(observed).toBe(await total('whole', { filter }));
    expect(observed).toBeLessThan(await total('whole', {}));
    // What is left out is not to be had by requesting otherwise.
    expect(await total('keeper', { filter: `NOT (${filter})` })).toBe(0);
    expect(await total('keeper', { filter: `${filter} OR 1 = 1` })).toBe(observed);

    const other = await as('whole', '/tables/passages/rows', {
      filter: `NOT (${filter})`,
      limit: '1',
    });
    const key = other.body.rows[0].id as string;
    expect((await as('keeper', `/tables/passages/rows/${key}`)).status).toBe(404);

    const groups = await as('keeper', '/tables/passages/groups', { group: 'lock.canal.name' });
    expect(groups.body.groups.map(({ value, count }: any) => [value, count])).toEqual([
      [canal, observed],
    ]);
    const sums = await as('keeper', '/tables/passages/aggregates', { aggregate: 'count()' });
    expect(sums.body.values).toEqual({ 'count()': observed });
    const values = await as('keeper', '/tables/passages/values/lock.name', { limit: '200' });
    const there = await as('whole', '/tables/passages/values/lock.name', { limit: '200', filter });
    expect(values.body.values).toEqual(there.body.values);
    const posts = await as('keeper', '/tables/passages/mileposts');
    expect(posts.body.totalKind).not.toBe('estimate');
  });

  it('sees related rows, and counts referring ones, by their own rules', async () => {
    const count = (await as('keeper', '/tables/canals/rows', { limit: '1' })).body.window.total;
    const withLocks = await as('keeper', '/tables/canals/rows', { filter: 'HAS(locks)' });
    expect(count).toBeGreaterThan(1);
    expect(withLocks.body.rows.map(({ name }: any) => name)).toEqual([canal]);
  });

  it.each([
    ['columns', 'rows', { columns: 'id,toll' }],
    ['filter', 'rows', { filter: 'toll > 1' }],
    ['sort', 'rows', { sort: '-toll' }],
    ['group', 'groups', { group: 'toll' }],
    ['aggregate', 'aggregates', { aggregate: 'sum(toll)' }],
    ['filter', 'rows', { filter: "boat.name = 'x'" }],
    ['columns', 'rows', { columns: 'boat_id' }],
  ])('finds no hidden column in %s', async (parameter, query, parameters) => {
    const { status, body } = await as('keeper', `/tables/passages/${query}`, parameters);
    expect(status).toBe(400);
    expect(body.errors[0].parameter).toBe(parameter);
    expect(body.errors[0].hint ?? '').not.toMatch(/toll|boat/);
  });

  it('gets no suggestion of a hidden column, and no search in it', async () => {
    const { body } = await as('keeper', '/tables/passages/rows', { filter: 'tol > 1' });
    expect(JSON.stringify(body)).not.toContain('toll');
    const { body: described } = await as('keeper', '/tables/passages');
    expect(JSON.stringify(described)).not.toMatch(/"(toll|note|boat|boat_id)"/);
    expect(described.estimatedRows).toBeNull();
    const { status } = await as('keeper', '/tables/passages/values/toll');
    expect(status).toBe(400);
    const { body: row } = await as('keeper', '/tables/passages/rows', { limit: '1' });
    expect(Object.keys(row.rows[0])).not.toContain('toll');
    // A place among hidden values says what they are.
    const cursor = (await as('whole', '/tables/passages/rows', { sort: 'toll', limit: '1' })).body;
    const { status: refused } = await as('keeper', '/tables/passages/rows', { after: cursor.next });
    expect(refused).toBe(400);
  });

  it('has no key, no cursors and no relationships where columns of them are hidden', async () => {
    const { body: locks } = await as('clerk', '/tables/locks');
    expect([locks.key, locks.relationships]).toEqual([[], []]);
    expect(locks.remarks[0]).toMatch(/^This table has no key/);
    const { body } = await as('clerk', '/tables/locks/rows', { limit: '2' });
    expect([body.next, body.columns]).toEqual([null, ['canal_id', 'name']]);
    expect((await as('clerk', '/tables/locks/rows/1')).status).toBe(400);
  });

  it('gets no explanation, which would name what is hidden', async () => {
    const parameters = { explain: 'true', limit: '1' };
    const { status, body } = await as('keeper', '/tables/passages/rows', parameters);
    expect([status, body.errors[0].parameter]).toEqual([400, 'explain']);
    expect((await as('whole', '/tables/passages/rows', parameters)).status).toBe(200);
  });

  it('sees nothing where what they may see is missing or misspelt', async () => {
    for (const who of ['misspelt', 'missing']) {
      expect((await as(who, '/tables')).body.tables).toEqual([]);
      expect((await as(who, '/tables/passages/rows')).status).toBe(404);
    }
    expect((await as('whole', '/tables')).body.tables.length).toBeGreaterThan(3);
  });

  it('learns neither how long the database took nor how it guesses', async () => {
    const response = await fetch(`${app.url}/inside/records/tables/passages/rows?limit=1`, {
      headers: { 'x-who': 'keeper' },
    });
    expect(response.headers.get('server-timing')).toBeNull();
    expect(response.headers.get('cache-control')).toContain('private');
    const described = await fetch(`${app.url}/inside/records/tables/passages`, {
      headers: { 'x-who': 'keeper' },
    });
    expect(described.headers.get('cache-control')).toContain('private');
  });

  it('gets the exact total of a slow query in the end, and mileposts that tell of no other rows', async () => {
    await ruled(
      [
        'create table t (id int primary key, mine boolean, v int)',
        'insert into t select n, n % 400 = 0, n from generate_series(1, 60000) n',
      ],
      async (own) => {
        const first = await own.get('/tables/t/rows?limit=1');
        expect(first.body.window).toMatchObject({ total: null, totalKind: 'none', counting: true });
        await until(
          () => own.get('/tables/t/rows?limit=1&total=exact'),
          ({ body: { window } }) => window.total === 150 && window.totalKind === 'exact',
        );
        const { body } = await postsOf(own, 'sort=v&ticks=2000');
        // Of sixty thousand rows every thirtieth would be one, of those that are visible every one is.
        expect(body.passed).toBe(150);
        expect(body.ticks.length).toBeGreaterThan(1);
      },
    );
  });

  it('gets mileposts of few rows which nobody has counted before', async () => {
    await ruled(
      [
        'create table t (id int primary key, mine boolean)',
        'insert into t select n, n % 400 = 0 from generate_series(1, 6000) n',
      ],
      async (own) => {
        const { body } = await postsOf(own, 'ticks=3');
        expect(body.ticks).toEqual([
          { offset: 0, value: 400 },
          { offset: 7, value: 3200 },
          { offset: 14, value: 6000 },
        ]);
      },
    );
  });

  it('may have a rule on a table of which the role may read some columns only', async () => {
    const { maintenance } = testDatabases();
    const fresh = await freshDatabase('ephoros_granted', [
      'create table t (id int primary key, owner text, secret text)',
      `insert into t values (1, 'a', 'x'), (2, 'b', 'y')`,
    ]);
    await perform(maintenance, [
      'drop role if exists ephoros_granted',
      'create role ephoros_granted login',
    ]);
    await perform(fresh.url, ['grant select (id, owner) on t to ephoros_granted']);
    const url = new URL(fresh.url);
    url.username = 'ephoros_granted';
    const own = await mount({
      database: url.href,
      access: () => ({ tables: { t: { rows: rule`owner = ${'a'}` } } }),
    });
    try {
      const { status, body } = await own.get('/tables/t/rows');
      expect([status, body.rows]).toEqual([200, [{ id: 1, owner: 'a' }]]);
    } finally {
      await own.close();
      await fresh.drop();
      await perform(maintenance, ['drop role ephoros_granted']);
    }
  });

  it('gets no answer while the rules are wrong, and the log says why', async () => {
    for (const who of ['careless', 'empty']) {
      expect((await as(who, '/tables/passages/rows')).status).toBe(500);
    }
    expect((await as('barred', '/tables/passages/rows')).status).toBe(404);
    for (const who of ['wrong', 'unruly']) {
      log.length = 0;
      const { status, body } = await as(who, '/tables/passages/rows');
      expect(status).toBe(500);
      expect(JSON.stringify(body)).not.toContain('tol');
      expect(log.join()).toMatch(/tol/);
      expect(log.join().includes('"caller":"unruly"')).toBe(who === 'unruly');
    }
  });
});
