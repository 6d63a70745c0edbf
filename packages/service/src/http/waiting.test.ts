import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { EntryFile } from '../positions/entry-file.ts';
import { poll, ready, rowsPath, startService, type TestService } from '../testing/service.ts';

/**
 * Rows of a table whose order by `n` no index gives, and in whose texts none helps to search: every
 * so many is another one, and the last one stands behind all mileposts.
 */
const every = 997;
const rows = 61 * every;
const configuration = `
tables:
  heap: { changes: false }
`;

type Parameters = Readonly<Record<string, string>>;

let url: string;
let drop: () => Promise<void>;
let database: pg.Client;

beforeAll(async () => {
  const fresh = await freshDatabase('ephoros_waiting', [
    'create table heap (id int primary key, n int not null, s text not null, m int)',
    // The same n many times over, so that the key decides.
    `insert into heap select i, (i * 7919) % 97, case when i % ${every} = 0 then 'heron' else 'reed' end || i, nullif(i % 5, 0)
       from generate_series(1, ${rows}) i`,
    'create table named (name text primary key, n int not null)',
    `insert into named select 'row ' || i, (i * 7919) % 97 from generate_series(1, ${rows}) i`,
    'analyze',
  ]);
  ({ url, drop } = fresh);
  database = new pg.Client({ connectionString: url });
  await database.connect();
});

afterAll(async () => {
  await database.end();
  await drop();
});

/** A service that waits for nothing, and thinks little to be much. */
const start = (more: object = {}): Promise<TestService> =>
  startService(url, configuration.replace('{ changes: false }', '{}'), {
    deferAfter: 60,
    positionIndex: { costly: 100 },
    countingTime: 50,
    ...more,
  });

const heap = (parameters: Parameters): string =>
  rowsPath('heap', { columns: 'id,n', shape: 'arrays', limit: '50', ...parameters });

const inOrder = async (by: string, offset: number, where = 'true'): Promise<unknown[]> =>
  (
    await database.query<[number, number]>({
      text: `select id, n from heap where ${where} order by ${by} limit 50 offset ${offset}`,
      rowMode: 'array',
    })
  ).rows;

/** How a window was come to. */
const way = async (service: TestService, parameters: Parameters): Promise<string> =>
  (await ready(service, heap({ ...parameters, explain: 'true' }))).body.explanation.way.from;

describe('an order that no index gives', () => {
  it('is sorted once, and any window is read by its keys then', async () => {
    const service = await start();
    const sort = 'n,-id';
    for (const offset of [30_000, 0, 59_990, 41_234, 70_000]) {
      const { status, body } = await ready(service, heap({ sort, offset: String(offset) }));
      expect(status).toBe(200);
      expect(body.rows).toEqual(await inOrder('n, id desc', offset));
      expect(body.window).toMatchObject({ offset, count: body.rows.length });
    }
    expect(await way(service, { sort, offset: '30000' })).toBe('places');
    await service.close();
  });

  it('shows how far it is until a place is found, and asks for nothing next to that', async () => {
    const service = await start({ deferAfter: 0 });
    const path = heap({ sort: '-n', offset: '50000' });
    const { status, headers, body } = await poll(service, path);
    expect([status, body.status]).toEqual([202, 'running']);
    expect(headers.get('retry-after')).toBe('1');
    expect(headers.get('preference-applied')).toBe('respond-async');
    expect(body.progress).toEqual({
      share: expect.any(Number),
      elapsed: expect.any(Number),
      rows: expect.any(Number),
      of: rows,
    });
    const found = await ready(service, path);
    expect(found.body.rows).toEqual(await inOrder('n desc, id desc', 50_000));
    expect(service.log.join('')).not.toContain('still being found');
    await service.close();
  });

  it('is read on by cursor both ways, where it was found', async () => {
    const service = await start();
    const sort = '-n';
    const first = await ready(service, heap({ sort, offset: '30000' }));
    const next = await ready(service, heap({ sort, after: first.body.next }));
    expect(next.body.rows).toEqual(await inOrder('n desc, id desc', 30_050));
    const back = await ready(service, heap({ sort, before: next.body.previous }));
    expect(back.body.rows).toEqual(first.body.rows);
    expect(await way(service, { sort, after: first.body.next })).toBe('places');
    const ends = await ready(service, heap({ sort, offset: String(rows - 20) }));
    expect([ends.body.rows.length, ends.body.next]).toEqual([20, null]);
    const begins = await ready(service, heap({ sort, offset: '0' }));
    expect(begins.body.previous).toBeNull();
    await service.close();
  });

  it('holds rows with a condition, and nulls where they belong', async () => {
    const service = await start();
    const sort = '-m';
    const filter = 'n < 50';
    for (const offset of [20_000, 28_000]) {
      const { body } = await ready(service, heap({ sort, filter, offset: String(offset) }));
      const by = 'm desc nulls last, id desc';
      expect(body.rows).toEqual(await inOrder(by, offset, 'n < 50'));
    }
    await service.close();
  });

  it('gives its ticks by the keys of rows', async () => {
    const service = await start();
    const path = '/api/tables/heap/mileposts?sort=-n&ticks=5';
    const { body } = await until(
      () => service.get(path),
      (answer) => answer.body.state === 'ready',
    );
    expect(body.ticks.map(({ offset }: { offset: number }) => offset)).toEqual([
      0,
      15_204,
      30_408,
      45_612,
      rows - 1,
    ]);
    for (const { offset, value } of body.ticks) {
      const [[, n] = []] = (await inOrder('n desc, id desc', offset)) as [number, number][];
      expect(value).toBe(n);
    }
    await service.close();
  });

  it('is walked from mileposts where keys have no fixed size', async () => {
    const service = await start();
    const path = rowsPath('named', { sort: 'n', offset: '40000', limit: '20', columns: 'name' });
    const { status, body } = await ready(service, path);
    expect(status).toBe(200);
    const { rows: expected } = await database.query(
      'select name from named order by n, name limit 20 offset 40000',
    );
    expect(body.rows).toEqual(expected);
    await service.close();
  });

  it('is walked where there is no room for places', async () => {
    const folder = '/nowhere/at/all';
    const service = await start({ positionIndex: { costly: 100, folder } });
    const { body } = await ready(service, heap({ sort: '-n', offset: '40000' }));
    expect(body.rows).toEqual(await inOrder('n desc, id desc', 40_000));
    await service.close();
    const small = await start({ positionIndex: { costly: 100, fileBytes: 1_000 } });
    const again = await ready(small, heap({ sort: '-n', offset: '40000' }));
    expect(again.body.rows).toEqual(await inOrder('n desc, id desc', 40_000));
    await small.close();
  });

  it('has no holes where others have removed rows, and says of when it is', async () => {
    const service = await start({ positionIndex: { costly: 100, staleAfter: 600_000 } });
    const sort = 'n,-id';
    const before = await ready(service, heap({ sort, offset: '30000' }));
    const [first, second] = before.body.rows as [number, number][];
    await database.query('begin');
    await database.query('delete from heap where id = any($1)', [[first?.[0], second?.[0]]]);
    await database.query('commit');
    try {
      const expected = await inOrder('n, id desc', 30_000);
      expect(expected).toHaveLength(50);
      // Where the machine is busy the answer from before took long, and is stored for some seconds.
      await until(
        () => ready(service, heap({ sort, offset: '30000' })),
        ({ body }) => JSON.stringify(body.rows) === JSON.stringify(expected),
      );
      // The statistics tell of it a while later.
      const outdated = await until(
        () => poll(service, heap({ sort, offset: '30000' })),
        ({ body }) => body.window?.asOf !== undefined,
      );
      expect(Date.parse(outdated.body.window.asOf)).toBeLessThanOrEqual(Date.now());
    } finally {
      for (const [id, n] of [first, second].filter((row) => row !== undefined)) {
        await database.query('insert into heap values ($1, $2, $3, $4)', [
          id,
          n,
          `${id % every === 0 ? 'heron' : 'reed'}${id}`,
          id % 5 === 0 ? null : id % 5,
        ]);
      }
    }
    await service.close();
  });
});

describe('a condition that no index answers, in an order that one gives', () => {
  const search = 'heron';

  /** A service for which a first look at the texts takes too long. */
  const impatient = (): Promise<TestService> => start({ deferAfter: 4 });

  it('is looked through chunk by chunk, and what was found so far is reported', async () => {
    const service = await impatient();
    const observed: { rows: number; total: number; count: number }[] = [];
    const { body } = await until(
      async () => {
        const answer = await poll(service, heap({ search, sort: 'id' }));
        const { scanned, total, count } = answer.body.window ?? {};
        if (scanned !== undefined) observed.push({ rows: scanned.rows, total, count });
        return answer;
      },
      (answer) => answer.status === 200 && answer.body.window.scanned === undefined,
    );
    expect(body.rows).toEqual(await inOrder('id', 0, "s like 'heron%'"));
    for (const [index, { rows: looked2, total, count }] of observed.entries()) {
      expect(total).toBe(Math.floor(looked2 / every));
      expect(count).toBe(Math.min(50, total));
      expect(looked2).toBeGreaterThanOrEqual(observed[index - 1]?.rows ?? 0);
    }
    await service.close();
  });

  it('goes on by cursor just behind what was looked through', async () => {
    const service = await impatient();
    const found: unknown[] = [];
    let place: Parameters = {};
    for (;;) {
      const { body } = await ready(service, heap({ search, sort: '-id', limit: '7', ...place }));
      found.push(...body.rows);
      if (body.next === null) break;
      place = { after: body.next };
    }
    const { rows: all } = await database.query({
      text: "select id, n from heap where s like 'heron%' order by id desc",
      rowMode: 'array',
    });
    expect(found).toEqual(all);
    await service.close();
  });

  it('reports no row twice where it is requested while the last ones are being written down', async () => {
    const service = await impatient();
    let write = (): void => undefined;
    const written = new Promise<void>((resolve) => {
      write = resolve;
    });
    const seal = jest.spyOn(EntryFile.prototype, 'seal').mockReturnValueOnce(written);
    const wanted = { search, sort: 'id', limit: '100' };
    try {
      await until(
        () => poll(service, heap(wanted)),
        () => seal.mock.calls.length > 0,
      );
      // A busy machine answers 202 first.
      const { body } = await ready(service, heap(wanted));
      expect(body.window.scanned.rows).toBeLessThan(rows);
      expect(body.window.total).toBe(Math.floor(body.window.scanned.rows / every));
      expect(body.rows).toHaveLength(body.window.total);
      write();
      const { body: more } = await until(
        () => poll(service, heap({ ...wanted, after: body.next })),
        ({ status, body: { window } }) => status === 200 && window.scanned === undefined,
      );
      const { rows: all } = await database.query({
        text: "select id, n from heap where s like 'heron%' order by id",
        rowMode: 'array',
      });
      expect([...body.rows, ...more.rows]).toEqual(all);
    } finally {
      seal.mockRestore();
      write();
    }
    await service.close();
  });

  it('is counted with that, and not next to it', async () => {
    const service = await impatient();
    const { body } = await until(
      () => poll(service, heap({ search, sort: 'id', total: 'exact' })),
      ({ body: { window } }) => window?.totalKind === 'exact',
    );
    expect(body.window.total).toBe(rows / every);
    await service.close();
  });
});

describe('groups that no index serves', () => {
  /** Everything takes long, and what was written to is found again soon. */
  const grouping = { deferAfter: 0, positionIndex: { costly: 100, staleAfter: 100 } };
  /** A group by its values, and the rows behind some of it. */
  const request = (n: number, m: number | null, place: Parameters = {}): Parameters => ({
    sort: '-s',
    filter: `m ${m === null ? 'IS NULL' : `= ${m}`} AND n = ${n} AND id > 10`,
    ...place,
  });
  const rowsOf = (n: number, m: number | null, offset = 0): Promise<unknown[]> =>
    inOrder('s desc, id', offset, `n = ${n} and m is not distinct from ${m} and id > 10`);

  it('have the places of all of them found once two of them took long', async () => {
    const service = await start(grouping);
    for (const n of [1, 2]) {
      expect((await ready(service, heap(request(n, 1)))).body.rows).toEqual(await rowsOf(n, 1));
    }
    // Nobody has requested this one before.
    await until(
      () => poll(service, heap({ ...request(3, null), explain: 'true' })),
      ({ status, body }) => status === 200 && body.explanation.way.from === 'places',
    );
    for (const [n, m, offset = 0] of [
      [96, 4],
      [4, null],
      [5, 2, 20],
      [5, 2, 100],
      [5, 2, 900],
    ] as const) {
      const { status, body } = await ready(
        service,
        heap(request(n, m, { offset: String(offset) })),
      );
      expect([status, body.rows]).toEqual([200, await rowsOf(n, m, offset)]);
    }
    const first = await ready(service, heap(request(7, 3)));
    const next = await ready(service, heap(request(7, 3, { after: first.body.next })));
    expect([next.status, next.body.rows]).toEqual([200, await rowsOf(7, 3, 50)]);
    const back = await ready(service, heap(request(7, 3, { before: next.body.previous })));
    expect(back.body.rows).toEqual(first.body.rows);
    // Of a group that is not there nobody knows a place.
    expect((await ready(service, heap(request(4_711, 3)))).body.rows).toEqual([]);
    await service.close();
  });

  it('have no holes where rows have gone', async () => {
    const service = await start(grouping);
    const group = (m: number, place: Parameters = {}): Parameters => ({
      ...{ sort: '-s', filter: `m = ${m} AND id > 10`, ...place },
    });
    for (const m of [1, 2]) await ready(service, heap(group(m)));
    await until(
      () => poll(service, heap({ ...group(3), explain: 'true' })),
      ({ status, body }) => status === 200 && body.explanation.way.from === 'places',
    );
    expect(await way(service, group(3, { offset: '3000' }))).toBe('places');
    const there = await inOrder('s desc, id', 5_000, 'm = 3 and id > 10');
    const gone = there.slice(3, 9).map((row) => (row as number[])[0]);
    await database.query('delete from heap where id = any($1)', [gone]);
    const after = await ready(service, heap(group(3, { offset: '5000' })));
    expect(after.body.rows).toEqual(await inOrder('s desc, id', 5_000, 'm = 3 and id > 10'));
    const last = await ready(service, heap(group(4, { offset: '5000' })));
    expect(last.body.rows).toEqual(await inOrder('s desc, id', 5_000, 'm = 4 and id > 10'));
    await service.close();
  });
});
