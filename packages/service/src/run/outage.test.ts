import { spawn, type ChildProcess } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { LossyProxy, startCluster, type Cluster } from '../../../../demo/src/index.ts';
import { perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { Database, Failure } from './index.ts';

const rounds = Number(process.env.EPHOROS_ROUNDS ?? 4);

jest.setTimeout(90_000 + rounds * 20_000);

/** The processes of a server: the first one and all that it has started. */
function processesOf({ folder }: Cluster): number[] {
  const [first = ''] = readFileSync(join(folder, 'data', 'postmaster.pid'), 'utf8').split('\n');
  const parentOf = (pid: string): string | undefined => {
    try {
      return readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ')[1];
    } catch {
      return undefined;
    }
  };
  const all = readdirSync('/proc').filter((name) => /^\d+$/.test(name));
  return [first, ...all.filter((pid) => parentOf(pid) === first)].map(Number);
}

function signal(pids: readonly number[], name: NodeJS.Signals): void {
  for (const pid of pids) {
    try {
      process.kill(pid, name);
    } catch {
      // It has ended of itself.
    }
  }
}

describe('a service whose database goes and comes back', () => {
  const folder = join(process.cwd(), '.ephoros', 'outage');
  let cluster: Cluster;
  let service: ChildProcess;
  let address = '';
  let written = '';

  beforeAll(async () => {
    cluster = await startCluster({ folder, port: 54_760 });
    await perform(cluster.url('postgres'), [
      'create table if not exists t (id int primary key, n int)',
      'insert into t select n, n * 2 from generate_series(1, 20000) n on conflict do nothing',
      // Takes long enough for a reader to leave in the midst of it.
      'create or replace view slow as select t.* from t, pg_sleep(0.02)',
      'analyze t',
    ]);
    // A process of its own: what would end it ends it.
    service = spawn(
      process.execPath,
      ['packages/cli/bin/ephoros.mjs', 'serve', '--port', '0', '--connections', '6'],
      {
        env: { ...process.env, EPHOROS_DATABASE: cluster.url('postgres') },
        stdio: ['ignore', 'ignore', 'pipe'],
      },
    );
    service.stderr?.setEncoding('utf8').on('data', (text: string) => {
      written += text;
    });
    const found = await until(
      () => Promise.resolve(/http:\/\/\S+/.exec(written)?.[0]),
      (url) => url !== undefined,
    );
    address = found ?? '';
  });

  afterAll(async () => {
    const ended = new Promise((resolve) => service.once('close', resolve));
    service.kill('SIGTERM');
    await ended;
    await cluster.stop();
  });

  /** Right rows, or an honest 503; anyone who leaves gets neither. */
  async function read(stay: boolean): Promise<number> {
    const from = Math.floor(Math.random() * 19_000);
    const search = new URLSearchParams({
      filter: `id > ${from} AND n % 3 >= 0`,
      sort: 'id',
      limit: '20',
    });
    try {
      const response = await fetch(
        `${address}/api/tables/${stay ? 't' : 'slow'}/rows?${search.toString()}`,
        {
          signal: AbortSignal.any([
            AbortSignal.timeout(30_000),
            ...(stay ? [] : [AbortSignal.timeout(Math.floor(Math.random() * 30))]),
          ]),
        },
      );
      const body = (await response.json()) as { rows?: { id: number }[]; title?: string };
      if (response.status === 200) {
        expect(body.rows?.map(({ id }) => id)).toEqual(
          Array.from({ length: 20 }, (_, at) => from + 1 + at),
        );
      } else expect([response.status, body.title]).toEqual([503, expect.any(String)]);
      return response.status;
    } catch (thrown) {
      if (!stay && thrown instanceof DOMException) return 0;
      throw thrown;
    }
  }

  const disturb: Readonly<Record<string, () => Promise<void>>> = {
    terminate: async () => {
      for (let times = 0; times < 15; times += 1) {
        await perform(cluster.url('postgres'), [
          "select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and application_name = 'ephoros'",
        ]);
      }
    },
    pause: async () => {
      const all = processesOf(cluster);
      signal(all, 'SIGSTOP');
      await new Promise((resolve) => setTimeout(resolve, 700));
      signal(all, 'SIGCONT');
    },
    kill: async () => {
      const [, ...others] = processesOf(cluster);
      const backends = others.filter((pid) =>
        readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('127.0.0.1'),
      );
      signal(backends.slice(0, 1), 'SIGKILL');
      await Promise.resolve();
    },
    restart: async () => {
      await cluster.stop();
      cluster = await startCluster({ folder, port: cluster.port });
    },
  };

  it('keeps an idle connection longer than a proxy does', async () => {
    const { headers } = await fetch(`${address}/api/tables`);
    const [, seconds] = /timeout=(\d+)/.exec(headers.get('keep-alive') ?? '') ?? [];
    expect(Number(seconds)).toBeGreaterThan(60);
  });

  it.each(
    Array.from({ length: rounds }, (_, round): [string, number] => [
      Object.keys(disturb)[round % 4] ?? 'terminate',
      round,
    ]),
  )('stays alive and answers rightly or not at all: %s (%i)', async (what) => {
    let going = true;
    const statuses = new Map<number, number>();
    const readers = Array.from({ length: 12 }, async (_, reader) => {
      while (going) {
        // Anyone who leaves comes back and stays once: else nothing bounds how often they connect, and
        // a busy machine refuses connections before the service sees them.
        if (reader % 2 === 1) await read(false);
        const status = await read(true);
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
      }
    });
    const all = Promise.all(readers);
    await disturb[what]?.();
    // Alive again for those who ask from now on.
    await until(
      () => read(true),
      (status) => status === 200,
      60_000,
    );
    going = false;
    await all;
    expect(service.exitCode).toBeNull();
    expect(statuses.get(200) ?? 0).toBeGreaterThan(0);
  });
});

describe('a way to the database that swallows everything', () => {
  const { lowmere } = testDatabases();

  it.each(['connections of its own', 'a borrowed pool'])(
    'fails within its own deadlines over %s',
    async (kind) => {
      const proxy = new LossyProxy(Number(new URL(lowmere).port));
      const url = new URL(lowmere);
      url.port = String(await proxy.listen());
      const pool = new pg.Pool({
        connectionString: url.href,
        max: 4,
        connectionTimeoutMillis: 1_000,
      });
      pool.on('error', () => undefined);
      const database = new Database({
        ...(kind === 'a borrowed pool' ? { pool } : { url: url.href }),
        connections: 2,
        timeLimit: 500,
        waitLimit: 500,
      });
      const answers = (): Promise<boolean> =>
        database.ping().then(
          () => true,
          () => false,
        );
      try {
        await until(answers, (there) => there);
        proxy.isFrozen = true;
        for (let times = 0; times < 3; times += 1) {
          const failed = await database
            .run({ text: `select ${times}`, parameters: [] })
            .catch((thrown: unknown) => (thrown as Failure).kind);
          expect(failed).toBe('unavailable');
        }
        await expect(database.ping()).rejects.toMatchObject({ kind: 'unavailable' });
        proxy.isFrozen = false;
        await until(answers, (there) => there);
      } finally {
        proxy.close();
        await database.close();
        await pool.end().catch(() => undefined);
      }
    },
  );
});

describe('a connection that is lost without a word', () => {
  const { lowmere } = testDatabases();
  let proxy: LossyProxy;
  let database: Database;

  beforeEach(async () => {
    proxy = new LossyProxy(Number(new URL(lowmere).port));
    const url = new URL(lowmere);
    url.port = String(await proxy.listen());
    // Its own limits would have it waited for much longer than a test may take.
    database = new Database({ url: url.href, connections: 1, timeLimit: 120_000 });
    await database.run({ text: 'select 0', parameters: [] });
  });

  afterEach(async () => {
    proxy.close();
    await database.close();
  });

  it('is replaced, and the statement is answered over another one', async () => {
    proxy.loseAll();
    const { rows } = await database.run({ text: 'select 1', parameters: [] });
    expect(rows).toEqual([['1']]);
  });

  it('is replaced where it is lost while a statement runs', async () => {
    const pending = database.run({ text: 'select 2 from pg_sleep(3)', parameters: [] });
    await new Promise((resolve) => setTimeout(resolve, 500));
    proxy.loseAll();
    expect((await pending).rows).toEqual([['2']]);
  });

  it('holds its place no longer than three seconds once its statement is cancelled', async () => {
    proxy.loseAll();
    const began = performance.now();
    await expect(
      database.run({ text: 'select 3', parameters: [] }, { signal: AbortSignal.timeout(100) }),
    ).rejects.toMatchObject({ kind: 'cancelled' });
    const { rows } = await database.run({ text: 'select 4', parameters: [] });
    expect(rows).toEqual([['4']]);
    expect(performance.now() - began).toBeLessThan(20_000);
  });

  it('is not waited for where the whole way to the database is gone', async () => {
    proxy.isFrozen = true;
    await expect(database.run({ text: 'select 5', parameters: [] })).rejects.toMatchObject({
      kind: 'unavailable',
    });
  });

  it('is not taken for one that has much to do', async () => {
    const { rows } = await database.run({ text: 'select 6 from pg_sleep(7)', parameters: [] });
    expect(rows).toEqual([['6']]);
  });
});
