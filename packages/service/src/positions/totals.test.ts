import pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { Database } from '../run/index.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { runningLike, writtenTo } from '../testing/watching.ts';
import { LocalPositionIndex, type IndexedOrder } from './index.ts';

const { lowmere } = testDatabases();

describe('a total', () => {
  let positions: LocalPositionIndex;
  let clock = 0;

  beforeEach(() => {
    clock = 1_000_000;
    const database = new Database({ url: lowmere, connections: 2 });
    const quick = new Database({ url: lowmere, connections: 1 });
    const connections = { background: database, passes: database, quick };
    positions = new LocalPositionIndex(connections, { now: () => clock, interest: 300 });
  });

  let open: () => Promise<void>;

  beforeEach(async () => {
    open = await shutGate(lowmere);
  });

  afterEach(async () => {
    await open();
    await positions.close();
  });

  const slow = (mark: string): IndexedOrder['counting'] => ({
    key: mark,
    written: writtenTo('passages'),
    count: { text: `select 20000 /* ${mark} */ from ${gate}`, parameters: [] },
    estimate: { text: 'explain (format json) select 1 from passages', parameters: [] },
  });

  it('is an estimate where counting takes longer than the wait limit, and exact thereafter', async () => {
    const counting = slow('patience');
    const first = await positions.total(counting, 'exact', 50);
    expect(first?.kind).toBe('estimate');
    expect(first?.rows).toBeGreaterThan(15_000);
    await open();
    const then = await until(
      () => positions.total(counting, 'exact', 20),
      (total) => total?.kind === 'exact',
    );
    expect(then?.rows).toBe(20_000);
    expect(await positions.total(counting, 'estimate', 0)).toEqual({
      rows: 20_000,
      kind: 'exact',
      countedAt: clock,
    });
  });

  it('is not waited for where the planner says that it is hopeless', async () => {
    const estimate = {
      text: 'explain (format json) select 1 from passages a, passages b',
      parameters: [],
    };
    const total = await positions.total({ ...slow('hopeless'), estimate }, 'exact', 600_000);
    expect(total?.kind).toBe('estimate');
  });

  it('is given up all the same when somebody has left after an earlier count', async () => {
    const watcher = new pg.Client({ connectionString: lowmere });
    await watcher.connect();
    try {
      const running = (): Promise<number> => runningLike(watcher, '/* late */');
      const late = new AbortController();
      const quick = { ...slow('late'), count: { text: 'select 20000', parameters: [] } };
      expect(await positions.total(quick, 'exact', 5_000, late.signal)).toMatchObject({
        rows: 20_000,
      });
      late.abort();
      const last = new AbortController();
      // It ends only where it is given up.
      const pending = positions.total(slow('late'), 'exact', 600_000, last.signal);
      await until(running, (there) => there === 1);
      last.abort();
      await pending;
      await until(running, (there) => there === 0, 10_000);
    } finally {
      await watcher.end();
    }
  });

  it('is counted once for all who ask meanwhile', async () => {
    const watcher = new pg.Client({ connectionString: lowmere });
    await watcher.connect();
    try {
      const all = Array.from({ length: 20 }, () => positions.total(slow('many'), 'exact', 600_000));
      await until(
        () => runningLike(watcher, '/* many */'),
        (count) => count > 0,
      );
      expect(await runningLike(watcher, '/* many */')).toBe(1);
      await open();
      expect(new Set((await Promise.all(all)).map((total) => total?.rows))).toEqual(
        new Set([20_000]),
      );
    } finally {
      await watcher.end();
    }
  });

  it('is not counted further when the only one who requested goes away', async () => {
    const watcher = new pg.Client({ connectionString: lowmere });
    await watcher.connect();
    const running = (): Promise<number> => runningLike(watcher, '/* gone */');
    const controller = new AbortController();
    const answer = positions.total(slow('gone'), 'exact', 600_000, controller.signal);
    await until(running, (count) => count === 1);
    controller.abort();
    await answer;
    await until(running, (count) => count === 0);

    // Nor when it goes away later, with an estimate in its hands and the answer not yet whole.
    const later = new AbortController();
    const estimate = await positions.total(slow('gone'), 'exact', 1, later.signal);
    expect(estimate?.kind).toBe('estimate');
    await until(running, (count) => count === 1);
    later.abort();
    await until(running, (count) => count === 0);
    await watcher.end();
  });
});
