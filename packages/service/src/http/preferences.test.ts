/** How long a request waits: its caller says so (RFC 7240). */
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';
import { preferencesOf } from './preferences.ts';
import { idOf, queryOf } from './running-query.ts';

const rows = 40_000;

let url: string;
let drop: () => Promise<void>;
let database: pg.Client;
let service: TestService;
let open: () => Promise<void>;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('ephoros_preferences', [
    // So that it takes its time on any machine.
    `create function slowly(n int) returns int language sql volatile cost 1000 as
       $$ select n from ${gate} $$`,
    'create view dawdling as select slowly(n) as a from generate_series(1, 600) n',
    'create view gate_sort as select n as id, slowly(n) as m from generate_series(1, 5000) n',
    'create table heap (id int primary key, n int not null, s text not null)',
    `insert into heap select i, (i * 7919) % 97, case when i % 1000 = 0 then 'heron' else 'reed' end
       from generate_series(1, ${rows}) i`,
    'analyze',
  ]));
  database = new pg.Client({ connectionString: url });
  await database.connect();
  service = await startService(url, '', {
    deferAfter: 20,
    countingTime: 1,
    positionIndex: { costly: 100 },
  });
});

afterAll(async () => {
  await service.close();
  await database.end();
  await drop();
});

beforeEach(async () => {
  open = await shutGate(url);
});

afterEach(() => open());

let turn = 0;
/** A query that takes its time, and that nobody has asked before. */
const slowQuery = (): string =>
  `/api/tables/dawdling/groups?group=a&limit=2&filter=a%20%3E%20${(turn += 1)}`;
const running = async (): Promise<number> => {
  const { rows: found } = await database.query<{ n: number }>(
    `select count(*)::int as n from pg_stat_activity where datname = current_database()
       and state = 'active' and query like '%dawdling%' and query not like 'explain%'
       and pid <> pg_backend_pid()`,
  );
  return found[0]?.n ?? 0;
};

describe('a request without a preference', () => {
  it('waits for its answer', async () => {
    const answer = service.get(slowQuery());
    await until(running, (count) => count === 1);
    await open();
    const { status, body } = await answer;
    expect([status, body.groups.length]).toEqual([200, 2]);
  });

  it('has the exact total where it asks for it, and rows of a deep place', async () => {
    const sort = '-n';
    const { body } = await service.get(
      rowsPath('heap', { total: 'exact', sort, offset: '30000', limit: '1', filter: 'n < 90' }),
    );
    expect(body.window).toMatchObject({ totalKind: 'exact', count: 1 });
    const counted = await database.query('select count(*)::int as n from heap where n < 90');
    expect(body.window.total).toBe((counted.rows[0] as { n: number }).n);
  });

  it('gets all rows of a search that no index answers', async () => {
    const { body } = await service.get(rowsPath('heap', { search: 'heron', sort: 'id' }));
    expect(body.rows).toHaveLength(rows / 1_000);
    expect(body.window.scanned).toBeUndefined();
  });
});

describe('wait=N', () => {
  it('bounds the wait: then the query is too slow, with its progress', async () => {
    const slow = slowQuery();
    const { status, body, headers } = await service.get(slow, { Prefer: 'wait=0.2' });
    expect([status, body.type]).toEqual([504, 'urn:ephoros:problem:wait-exceeded']);
    expect(body.progress).toEqual({ share: expect.any(Number), elapsed: expect.any(Number) });
    expect(headers.get('retry-after')).toBe('1');
    await open();
    expect((await service.get(slow, { Prefer: 'wait=60' })).status).toBe(200);
  });
});

describe('respond-async', () => {
  it('is answered by 202, and by the answer at the place that it names', async () => {
    const slow = slowQuery();
    const { status, body, headers } = await service.get(slow, {
      Prefer: 'respond-async, wait=0.1',
    });
    expect([status, body.status]).toEqual([202, 'running']);
    expect(headers.get('preference-applied')).toBe('respond-async, wait=0.1');
    expect(headers.get('vary')).toContain('Prefer');
    const place = headers.get('location') ?? '';
    expect(place).toMatch(/^\/api\/queries\/[\w-]+$/);
    const again = await service.get(place);
    expect([again.status, again.headers.get('location')]).toEqual([202, place]);
    await open();
    const there = await service.get(place, { Prefer: 'wait=60' });
    expect([there.status, there.body.groups.length]).toEqual([200, 2]);
    expect(there.headers.get('content-location')).toBe(slow);
  });

  it('names a place for queries in a body as well', async () => {
    const posted = await fetch(`${service.url}/api/tables/dawdling/groups`, {
      method: 'POST',
      headers: { Prefer: 'respond-async, wait=0.1' },
      body: JSON.stringify({ group: 'a', limit: 3, filter: 'a > 1000' }),
    });
    expect(posted.status).toBe(202);
    const place = posted.headers.get('location') ?? '';
    await open();
    const { status, body } = await service.get(place, { Prefer: 'wait=60' });
    expect([status, body.groups]).toEqual([200, []]);
  });

  it('is cancelled by DELETE, at once', async () => {
    const path = slowQuery();
    const { headers } = await service.get(path, { Prefer: 'respond-async, wait=0.1' });
    await until(running, (count) => count === 1);
    const ended = await fetch(service.url + (headers.get('location') ?? ''), { method: 'DELETE' });
    expect(ended.status).toBe(204);
    await until(running, (count) => count === 0);
  });

  it('goes on for others where one caller cancels it', async () => {
    const path = slowQuery();
    const waiting = service.get(path);
    const { headers } = await service.get(path, { Prefer: 'respond-async, wait=0.3' });
    await until(running, (count) => count === 1);
    await fetch(service.url + (headers.get('location') ?? ''), { method: 'DELETE' });
    await open();
    expect((await waiting).status).toBe(200);
  });

  it.each([
    'nothing',
    '__',
    idOf({ method: 'GET', url: '/tables' }),
    idOf({ method: 'GET', url: '/x' }),
  ])('has no place %s', async (id) => {
    const { status } = await service.get(`/api/queries/${id}`);
    expect(status).toBe(404);
  });
});

describe('a sort in the background', () => {
  it('ends soon after the last caller who waits has gone', async () => {
    const other = await startService(url, 'tables: { gate_sort: { key: [id] } }', {
      deferAfter: 20,
      positionIndex: { costly: 1 },
    });
    const sorting = async (): Promise<number> => {
      const { rows: found } = await database.query<{ n: number }>(
        `select count(*)::int as n from pg_stat_activity where datname = current_database()
           and state = 'active' and query like '%gate_sort%' and query not like 'explain%'
           and pid <> pg_backend_pid()`,
      );
      return found[0]?.n ?? 0;
    };
    const leaving = new AbortController();
    const path = rowsPath('gate_sort', { sort: '-m', offset: '4500', total: 'none' });
    const gone = fetch(other.url + path, { signal: leaving.signal }).catch(() => 'gone');
    await until(sorting, (count) => count > 0);
    leaving.abort();
    expect(await gone).toBe('gone');
    await until(sorting, (count) => count === 0);
    await other.close();
  });
});

describe('the header', () => {
  const read = (prefer: string | undefined): object => preferencesOf({ headers: { prefer } });

  it('is read as the standard says', () => {
    expect(read(undefined)).toEqual({ respondAsync: false, wait: undefined });
    expect(read('respond-async')).toEqual({ respondAsync: true, wait: undefined });
    expect(read('Respond-Async;x=1, WAIT="10"')).toEqual({ respondAsync: true, wait: 10_000 });
    expect(read('wait=5, wait=7')).toEqual({ respondAsync: false, wait: 5_000 });
    expect(read('wait=soon, odata.maxpagesize=5')).toEqual({
      respondAsync: false,
      wait: undefined,
    });
    expect(read('wait=-1')).toEqual({ respondAsync: false, wait: undefined });
  });
});

describe('the id of a running query', () => {
  it('stands for the query, however it is written', () => {
    for (const query of [
      { method: 'GET', url: '/tables/a/rows?filter=b%20%3D%20%27%C3%A9%27' },
      { method: 'POST', url: '/tables/a/query', body: '{"filter":"ß = 1"}' },
    ] as const) {
      expect(queryOf(idOf(query) ?? '')).toEqual(query);
    }
  });

  it('is left out where it would be too long for a URL', () => {
    const body = Array.from({ length: 9_000 }, (_, at) => (at * 7_919) % 10_007).join();
    expect(idOf({ method: 'POST', url: '/tables/a/query', body })).toBeUndefined();
  });
});
