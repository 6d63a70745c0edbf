import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { Database } from '../run/index.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { runningLike, writtenTo } from '../testing/watching.ts';
import { LocalPositionIndex, type IndexedOrder, type PositionIndexOptions } from './index.ts';

const { lowmere } = testDatabases();

describe('windows deep in a result', () => {
  let service: TestService;

  beforeAll(async () => {
    service = await startService(lowmere);
  });

  afterAll(() => service.close());

  const way = async (parameters: Record<string, string>): Promise<any> => {
    const wanted = { columns: 'id', limit: '40', explain: 'true', total: 'none', ...parameters };
    const { status, body } = await service.get(rowsPath('passages', wanted));
    expect(status).toBe(200);
    return {
      ...body.explanation.way,
      ids: body.rows.map(({ id }: { id: string }) => Number(id)),
      next: body.next,
      previous: body.previous,
    };
  };

  it.each(['id', '-passed_at', '-toll', 'note,-keeper_id', 'lock.canal.name'])(
    'are the same rows from mileposts as by offset (sorted by %s)',
    async (sort) => {
      const offset = 12_345;
      const cold = await way({ sort, offset: String(offset) });
      expect(cold.ids).toHaveLength(40);
      const path = `/api/tables/passages/mileposts?sort=${encodeURIComponent(sort)}`;
      await until(
        () => service.get(path),
        ({ body }) => body.state === 'ready',
      );
      const warm = await way({ sort, offset: String(offset) });
      expect(warm).toMatchObject({ from: 'milepost', edge: false });
      expect(warm.skip).toBeLessThan(100);
      expect(warm.ids).toEqual(cold.ids);
      expect(warm.next).toBe(cold.next);
      expect(warm.previous).toBe(cold.previous);
    },
  );

  it('are walked to from the end where that is nearer, and end where the result ends', async () => {
    const filter = 'lock_id > 1';
    const counted = await service.get(rowsPath('passages', { filter, limit: '1' }));
    const { total, totalKind } = counted.body.window;
    expect(totalKind).toBe('exact');
    // Counted while the samples were set; a quick count alone is made again each time.
    await until(
      () => service.get(`/api/tables/passages/mileposts?filter=${encodeURIComponent(filter)}`),
      ({ body }) => body.state === 'ready',
    );
    const last = await way({ filter, offset: String(total - 3) });
    expect(last).toMatchObject({ from: 'end', skip: 0, limit: 3, next: null });
    expect(last.ids).toHaveLength(3);
    const before = await way({ filter, offset: String(total - 43) });
    expect(before).toMatchObject({ from: 'end', skip: 3, limit: 40 });
    expect(before.next).not.toBeNull();
    const past = await service.get(rowsPath('passages', { filter, offset: '5000000' }));
    expect(past.body).toMatchObject({ rows: [], next: null });
  });

  it('are walked to by their sort values alone from the end, where those lie in an index', async () => {
    // In another order the same rows were counted, but no mileposts are set in this one.
    const sort = '-id';
    await until(
      () => service.get('/api/tables/passages/mileposts'),
      ({ body }) => body.state === 'ready',
    );
    const offset = '16500';
    const cold = await way({ sort, columns: 'id,note', offset });
    expect(cold).toMatchObject({ from: 'end', edge: true });
    expect(cold.ids).toHaveLength(40);
    await until(
      () => service.get(`/api/tables/passages/mileposts?sort=${sort}`),
      ({ body }) => body.state === 'ready',
    );
    const warm = await way({ sort, columns: 'id,note', offset });
    expect(warm).toMatchObject({ from: 'milepost' });
    expect(cold.ids).toEqual(warm.ids);
  });

  it('give the sort values at even positions', async () => {
    const path = '/api/tables/passages/mileposts?ticks=5&sort=-passed_at';
    const { body } = await until(
      () => service.get(path),
      ({ body: answer }) => answer.state === 'ready',
    );
    expect(body).toMatchObject({
      table: 'passages',
      column: 'passed_at',
      descending: true,
      indexed: true,
      total: 20_000,
      totalKind: 'exact',
    });
    expect(body.ticks).toHaveLength(5);
    for (const { offset, value } of body.ticks) {
      const there = await service.get(
        rowsPath('passages', {
          columns: 'passed_at',
          sort: '-passed_at',
          offset: String(offset),
          limit: '1',
        }),
      );
      expect(there.body.rows[0].passed_at).toBe(value);
    }
  });

  it.each([
    ['ticks=0', 'not-a-whole-number'],
    ['ticks=2001', 'not-a-whole-number'],
    ['tics=5', 'unknown-parameter'],
    ['sort=pased_at', 'unknown-column'],
    ['limit=5', 'unknown-parameter'],
  ])('are refused for %s with its place', async (parameters, code) => {
    const { status, body } = await service.get(`/api/tables/passages/mileposts?${parameters}`);
    expect(status).toBe(400);
    expect(body.errors[0].code).toBe(code);
  });
});

describe('a positions', () => {
  let writer: pg.Client;
  let drop: () => Promise<void>;
  let url: string;
  let positions: LocalPositionIndex;
  let clock = 0;

  beforeAll(async () => {
    const fresh = await freshDatabase('ephoros_positions', [
      'create table t (id int primary key, v int not null)',
      'insert into t select n, n % 7 from generate_series(1, 5000) n',
      'analyze t',
    ]);
    ({ url, drop } = fresh);
    writer = new pg.Client({ connectionString: url });
    await writer.connect();
  });

  afterAll(async () => {
    await writer.end();
    await drop();
  });

  afterEach(() => positions.close());

  function open(options: PositionIndexOptions = {}): void {
    clock = 1_000_000;
    const [background, quick] = [new Database({ url, connections: 2 }), new Database({ url })];
    const connections = { background, passes: background, quick };
    positions = new LocalPositionIndex(connections, { now: () => clock, ...options });
  }

  const none: readonly never[] = [];
  const written = writtenTo('t');
  const counting = {
    key: 't',
    written,
    count: { text: 'select count(*) from t', parameters: none },
    estimate: { text: 'explain (format json) select 1 from t', parameters: none },
  };
  const orderOf = (key: string, before = ''): IndexedOrder => ({
    counting,
    key,
    step: 100,
    written,
    first: { text: 'select id from t order by id limit 101', parameters: none },
    mileposts: {
      pass: {
        text: `select id, n from (select id, row_number() over () as n, lead(1) over () as more from (select id ${before} from t order by id) w) q where n % 100 = 0 or more is null`,
        parameters: none,
      },
    },
  });
  const at = (offset: number): { offset: number; limit: number } => ({ offset, limit: 10 });
  const ready = (key: string): Promise<unknown> =>
    until(
      () => positions.overview(key, 10),
      (overview) => overview?.state === 'ready',
    );

  it('sets mileposts once, and the exact total falls out', async () => {
    open();
    expect(await positions.places({ key: 'by id', countKey: 't', window: at(250) })).toEqual({
      indexed: false,
      total: undefined,
    });
    await positions.begin(orderOf('by id'));
    await positions.begin(orderOf('by id'));
    await ready('by id');
    expect(await positions.places({ key: 'by id', countKey: 't', window: at(250) })).toEqual({
      indexed: true,
      by: 'mileposts',
      sample: { number: 200, values: ['200'] },
      total: 5000,
    });
  });

  it('uses what is there while the rest is on its way, and gives up what nobody wants', async () => {
    open({ interest: 200 });
    // A row takes 2 ms: all of them would take ten seconds.
    await positions.begin(orderOf('slowly', ', pg_sleep(0.002)'));
    const running = (): Promise<number> => runningLike(writer, 'pg_sleep(0.002)');
    await until(running, (count) => count === 1);
    expect((await positions.overview('slowly', 100))?.state).toBe('building');
    clock += 1_000;
    await until(running, (count) => count === 0);
    expect(await positions.overview('slowly', 10)).toBeUndefined();
  });

  it('makes only so many at once; the others wait', async () => {
    open();
    const openGate = await shutGate(url);
    await positions.begin(orderOf('first', `, (select 1 from ${gate})`));
    await positions.begin(orderOf('second'));
    expect((await positions.overview('second', 1))?.state).toBe('waiting');
    await openGate();
    await ready('second');
    expect((await positions.overview('first', 1))?.state).toBe('ready');
  });

  it('keeps within its memory, the least recently requested dropped', async () => {
    // One entry of fifty samples takes some five thousand bytes.
    open({ memory: 15_000 });
    for (const key of ['a', 'b']) {
      await positions.begin(orderOf(key));
      await ready(key);
    }
    await positions.overview('a', 1);
    await positions.begin(orderOf('c'));
    await ready('c');
    await until(
      () => positions.overview('b', 1),
      (overview) => overview === undefined,
    );
    expect((await positions.overview('a', 1))?.state).toBe('ready');
  });

  it('renews mileposts when rows were written, and leaves them when none were', async () => {
    open();
    await positions.begin(orderOf('renewed'));
    await ready('renewed');
    clock += 60_000;
    await positions.places({ key: 'renewed', countKey: 't', window: at(4_000) });
    expect(
      (await positions.places({ key: 'renewed', countKey: 't', window: at(4_000) })).sample?.values,
    ).toEqual(['4000']);
    await writer.query('delete from t where id <= 50');
    // Otherwise up to ten seconds pass before the statistics know.
    await writer.query('select pg_stat_force_next_flush()');
    await until(
      async () => {
        clock += 60_000;
        return positions.places({ key: 'renewed', countKey: 't', window: at(4_000) });
      },
      ({ sample, total }) => sample?.values[0] === '4050' && total === 4950,
    );
  });

  it('forgets mileposts at once that so much was written past that they are useless', async () => {
    open();
    const own = { ...orderOf('useless'), counting: { ...counting, key: 'useless' } };
    await positions.begin(own);
    await ready('useless');
    const { rows } = await writer.query<{ n: number }>('select count(*)::int as n from t');
    const before = rows[0]?.n ?? 0;
    await writer.query('delete from t where id <= 1000');
    await writer.query('select pg_stat_force_next_flush()');
    // Long before mileposts are set again that are a little old.
    clock += 3_000;
    const there = await until(
      () => positions.places({ key: 'useless', countKey: 'useless', window: at(2_000) }),
      ({ sample, total }) => sample?.number === 2_000 && total !== undefined && total < before,
    );
    expect(there.sample?.values).toEqual(['3000']);
  });

  it('says when its database fails it, and tries again later', async () => {
    open();
    const broken = { ...orderOf('broken'), counting: { ...counting, key: 'broken' } };
    const pass = { text: 'select nothing from nowhere', parameters: none };
    await positions.begin({ ...broken, mileposts: { pass } });
    await until(
      () => positions.overview('broken', 1),
      (overview) => overview?.state === 'failed',
    );
    const count = { text: 'select count(*) from nowhere', parameters: none };
    const lost = { ...counting, key: 'lost', count, estimate: count };
    expect(await positions.total(lost, 'exact', 1_000)).toBeUndefined();
  });
});
