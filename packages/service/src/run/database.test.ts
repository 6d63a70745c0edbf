import pg from 'pg';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService } from '../testing/service.ts';
import { runningLike } from '../testing/watching.ts';
import { Database, Failure } from './index.ts';

const { lowmere } = testDatabases();

async function until(test: () => Promise<boolean>, milliseconds: number): Promise<number> {
  const began = performance.now();
  while (!(await test())) {
    if (performance.now() - began > milliseconds) throw new Error(`not within ${milliseconds} ms`);
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  return performance.now() - began;
}

describe('a statement', () => {
  let database: Database;
  const watcher = new pg.Client({ connectionString: lowmere });

  beforeAll(async () => {
    database = new Database({ url: lowmere, connections: 2 });
    await watcher.connect();
  });

  afterAll(async () => {
    await database.close();
    await watcher.end();
  });

  it('lets others have their turn while rows come faster than they are taken', async () => {
    const text = 'copy (select n from generate_series(1, 300000) n) to stdout (format binary)';
    const inTurn: number[] = [];
    let taken = 0;
    let isOver = false;
    const turn = (): void => {
      inTurn.push(taken);
      taken = 0;
      if (!isOver) setImmediate(turn);
    };
    setImmediate(turn);
    const rows = await database.copy({ settings: [], text }, () => {
      taken += 1;
      const began = performance.now();
      while (performance.now() - began < 1);
    });
    isOver = true;
    expect(rows).toBe(300_000);
    const pieces = inTurn.reduce((sum, one) => sum + one, 0);
    expect(pieces).toBeGreaterThan(20);
    // Of a millisecond each: within ten of them somebody else has theirs.
    expect(Math.max(...inTurn)).toBeLessThanOrEqual(12);
  });

  const sleep = (mark: string, seconds: number): { text: string; parameters: [] } => ({
    text: `select pg_sleep(${seconds}) /* ${mark} */`,
    parameters: [],
  });

  it('cannot write', async () => {
    await expect(
      database.run({ text: 'delete from passages', parameters: [] }),
    ).rejects.toMatchObject({
      cause: { code: '25006' },
    });
  });

  it('is stopped at the time limit', async () => {
    const limited = new Database({ url: lowmere, connections: 1, timeLimit: 300 });
    await expect(limited.run(sleep('limit', 20))).rejects.toMatchObject({ kind: 'time-limit' });
    await limited.close();
  });

  it('is cancelled in the database when the caller is gone, and the connection is good again', async () => {
    const controller = new AbortController();
    const pending = database.run(sleep('abandoned', 20), { signal: controller.signal });
    await until(async () => (await runningLike(watcher, 'abandoned')) === 1, 10_000);
    controller.abort();
    await until(async () => (await runningLike(watcher, 'abandoned')) === 0, 10_000);
    await expect(pending).rejects.toMatchObject({ kind: 'cancelled' });
    const again = await Promise.all(
      [1, 2, 3].map(() => database.run({ text: 'select 1', parameters: [] })),
    );
    expect(again.map(({ rows }) => rows)).toEqual([[['1']], [['1']], [['1']]]);
  });

  it('is refused as one too many where the database takes no more connections', async () => {
    const { maintenance } = testDatabases();
    const url = new URL(lowmere);
    url.username = 'ephoros_limited';
    await perform(maintenance, [
      'drop role if exists ephoros_limited',
      'create role ephoros_limited login connection limit 1',
    ]);
    const limited = new Database({ url: url.href, connections: 2 });
    const controller = new AbortController();
    const held = limited.run(sleep('the only one', 20), { signal: controller.signal });
    const ended = Promise.allSettled([held]);
    try {
      await until(async () => (await runningLike(watcher, 'the only one')) > 0, 10_000);
      await expect(limited.run(sleep('other', 0))).rejects.toMatchObject({ kind: 'full' });
    } finally {
      controller.abort();
      await ended;
      await limited.close();
      await perform(maintenance, ['drop role ephoros_limited']);
    }
  });

  it('ends its session where it finds a table that is another one by now, and no other', async () => {
    const single = new Database({ url: lowmere, connections: 1 });
    const session = async (): Promise<unknown> => {
      const { rows } = await single.run({ text: 'select pg_backend_pid()', parameters: [] });
      return rows[0]?.[0];
    };
    try {
      const first = await session();
      await expect(single.run({ text: 'select 1 / 0', parameters: [] })).rejects.toBeDefined();
      expect(await session()).toBe(first);
      const lost = single.run({ text: 'select 1 from nowhere', parameters: [] });
      await expect(lost).rejects.toMatchObject({ kind: 'changed' });
      expect(await session()).not.toBe(first);
    } finally {
      await single.close();
    }
  });

  it('is prepared once it has come before', async () => {
    const single = new Database({ url: lowmere, connections: 1 });
    const requests = { text: 'select count(*) from locks where id > $1', parameters: ['3'] };
    try {
      for (const parameters of [['1'], ['2'], ['3']]) await single.run({ ...requests, parameters });
      const { rows } = await single.run({
        text: 'select statement from pg_prepared_statements',
        parameters: [],
      });
      expect(rows).toEqual([[requests.text]]);
    } finally {
      await single.close();
    }
  });

  it('is not begun when the caller is gone already', async () => {
    await expect(
      database.run(sleep('never', 5), { signal: AbortSignal.abort() }),
    ).rejects.toMatchObject({
      kind: 'cancelled',
    });
  });

  it('finds the service full when no connection becomes free', async () => {
    const small = new Database({ url: lowmere, connections: 2, waitLimit: 300 });
    const controller = new AbortController();
    const { signal } = controller;
    const busy = [
      small.run(sleep('busy', 20), { signal }),
      small.run(sleep('busy too', 20), { signal }),
    ];
    const ended = Promise.allSettled(busy);
    await expect(small.run(sleep('late', 0))).rejects.toMatchObject({ kind: 'full' });
    controller.abort();
    await ended;
    await small.close();
  });

  it('is run once for all who ask for the same at the same time, until all of them are gone', async () => {
    const controllers = [new AbortController(), new AbortController()] as const;
    const answer = controllers.map(({ signal }) =>
      database.run(sleep('asked for by two', 20), { signal }),
    );
    const failed = answer.map((one) => one.catch((error: unknown) => (error as Failure).kind));
    await until(async () => (await runningLike(watcher, 'asked for by two')) > 0, 10_000);
    expect(await runningLike(watcher, 'asked for by two')).toBe(1);
    controllers[0].abort();
    expect(await failed[0]).toBe('cancelled');
    expect(await runningLike(watcher, 'asked for by two')).toBe(1);
    controllers[1].abort();
    await until(async () => (await runningLike(watcher, 'asked for by two')) === 0, 10_000);
    expect(await failed[1]).toBe('cancelled');
  });

  it('gives its rows as they come', async () => {
    const observed: (string | null)[] = [];
    await database.stream(
      { text: 'select n, null from generate_series(1, $1::int) n', parameters: [3] },
      (row) => observed.push(...row),
    );
    expect(observed).toEqual(['1', null, '2', null, '3', null]);
    const broken = { text: 'select 1 / (n - 2) from generate_series(1, 3) n', parameters: [] };
    await expect(database.stream(broken, () => undefined)).rejects.toMatchObject({
      kind: 'refused-value',
    });
  });
});

describe('over HTTP', () => {
  it('an abandoned request is cancelled in the database', async () => {
    const slow = await freshDatabase('ephoros_slow', [
      'create function slow() returns int language sql as $$ select 1 from pg_sleep(10) $$',
      'create view tired as select slow() as a',
    ]);
    const service = await startService(slow.url);
    const watcher = new pg.Client({ connectionString: slow.url });
    await watcher.connect();
    try {
      const controller = new AbortController();
      const pending = fetch(service.url + rowsPath('tired', { total: 'none' }), {
        signal: controller.signal,
      });
      await until(async () => (await runningLike(watcher, '"tired"')) === 1, 10_000);
      controller.abort();
      await expect(pending).rejects.toThrow();
      await until(async () => (await runningLike(watcher, '"tired"')) === 0, 10_000);
    } finally {
      await watcher.end();
      await service.close();
      await slow.drop();
    }
  });

  it('the time limit answers 504 with what to do, a lost database 503 and recovery', async () => {
    const slow = await freshDatabase('ephoros_lost', [
      'create function slow() returns int language sql as $$ select 1 from pg_sleep(10) $$',
      'create view tired as select slow() as a',
      'create table quick (id int primary key)',
    ]);
    const service = await startService(slow.url);
    const limited = await startService(slow.url, '', { timeLimit: 200 });
    try {
      const late = await limited.get(rowsPath('tired', { total: 'none' }));
      expect(late.status).toBe(504);
      expect(late.body.detail).toContain('Narrow the filter');
      expect((await service.get(rowsPath('quick'))).status).toBe(200);

      const { maintenance } = testDatabases();
      await perform(maintenance, [
        'alter database ephoros_lost allow_connections false',
        `select pg_terminate_backend(pid) from pg_stat_activity where datname = 'ephoros_lost'`,
      ]);
      const lost = await service.get(rowsPath('quick'));
      expect(lost.status).toBe(503);
      expect(lost.headers.get('retry-after')).toBe('2');
      expect((await service.get('/health')).status).toBe(200);
      expect((await service.get('/ready')).status).toBe(503);

      await perform(maintenance, ['alter database ephoros_lost allow_connections true']);
      expect((await service.get(rowsPath('quick'))).status).toBe(200);
      expect((await service.get('/ready')).status).toBe(200);
    } finally {
      await Promise.all([service, limited].map((one) => one.close()));
      await slow.drop();
    }
  });

  it('a table that changes meanwhile is read again', async () => {
    const changing = await freshDatabase('ephoros_changing', [
      'create table t (id int primary key, old int)',
      'insert into t values (1, 2)',
    ]);
    const service = await startService(changing.url);
    try {
      expect((await service.get(rowsPath('t'))).body.rows).toEqual([{ id: 1, old: 2 }]);
      await perform(changing.url, ['alter table t rename column old to new']);
      expect((await service.get(rowsPath('t'))).body.rows).toEqual([{ id: 1, new: 2 }]);
    } finally {
      await service.close();
      await changing.drop();
    }
  });
});

describe('a failure', () => {
  it('is known by its SQLSTATE or by the words of the driver', () => {
    expect(Failure.from({ code: '08006' }).kind).toBe('unavailable');
    expect(Failure.from({ code: 'ECONNREFUSED' }).kind).toBe('unavailable');
    expect(Failure.from(new Error('Connection terminated unexpectedly')).kind).toBe('unavailable');
    expect(Failure.from({ code: '22P02' }).kind).toBe('refused-value');
    expect(Failure.from(new Error('other')).kind).toBe('unknown');
  });
});
