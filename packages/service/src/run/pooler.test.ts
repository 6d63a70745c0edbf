import pg from 'pg';
import { LossyProxy, startPooler, type Pooler } from '../../../../demo/src/index.ts';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { liveTriggersOf } from '@ephoros/core/sql';
import { until } from '../../../core/src/testing/until.ts';
import { Listener } from '../testing/listener.ts';
import { ready, rowsPath, startService, type TestService } from '../testing/service.ts';
import { Database } from './index.ts';

const configuration = `
tables:
  berths: { changes: { add: true, change: true, remove: true } }
`;

let fresh: Awaited<ReturnType<typeof freshDatabase>>;
let pooler: Pooler;

beforeAll(async () => {
  fresh = await freshDatabase('ephoros_pooled', [
    'create table berths (id int primary key, name text not null, fee numeric, day date)',
    `insert into berths select i, 'berth ' || i, i % 97, date '2026-01-01' + i % 300 from generate_series(1, 20000) i`,
    liveTriggersOf({ key: ['id'] } as never, { schema: 'public', name: 'berths' }).add,
    'analyze',
  ]);
});

afterAll(() => fresh.drop());

/** What a session of the pooler is set to that nobody has set anything in. */
async function settings(url: string): Promise<readonly string[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const names = ['default_transaction_read_only', 'statement_timeout', 'TimeZone', 'jit'];
    const { rows } = await client.query<{ setting: string }>(
      'select setting from pg_settings where name = any($1) order by name',
      [names],
    );
    return rows.map(({ setting }) => setting);
  } finally {
    await client.end();
  }
}

describe.each(['transaction', 'session'] as const)('PgBouncer in %s mode', (mode) => {
  let service: TestService;
  let before: readonly string[];

  beforeAll(async () => {
    pooler = await startPooler(fresh.url, { mode, sessions: mode === 'transaction' ? 3 : 60 });
    before = await settings(pooler.url(fresh.url));
    service = await startService(pooler.url(fresh.url), configuration, {
      records: pooler.url(fresh.url),
      changes: pooler.url(fresh.url),
    });
  });

  afterAll(async () => {
    await service.close();
    await pooler.stop();
  });

  it('answers every one of many different requests rightly', async () => {
    const odd: unknown[] = [];
    const ask = async (number: number): Promise<void> => {
      const from = (number * 7_919) % 19_000;
      const place = number % 2 === 0 ? { filter: `id > ${from}` } : { offset: String(from) };
      const columns = number % 3 === 0 ? 'id' : 'id,name,day';
      const path = rowsPath('berths', { ...place, columns, sort: 'id', limit: '5' });
      const { status, body } = await ready(service, path);
      const ids = body.rows?.map(({ id }: { id: number }) => id) as readonly number[] | undefined;
      if (ids?.join() !== [1, 2, 3, 4, 5].map((step) => from + step).join()) {
        odd.push([path, status, ids ?? body]);
      }
    };
    const numbers = Array.from({ length: 1_200 }, (_, number) => number);
    const reader = async (): Promise<void> => {
      for (let next = numbers.pop(); next !== undefined; next = numbers.pop()) await ask(next);
    };
    await Promise.all(Array.from({ length: 24 }, reader));
    expect(odd).toEqual([]);
  });

  it('leaves no setting in the sessions that others get', async () => {
    for (let times = 0; times < 6; times += 1) {
      expect(await settings(pooler.url(fresh.url))).toEqual(before);
    }
  });

  it('saves, undoes, counts, groups, exports and stores views', async () => {
    const headers = { 'content-type': 'application/json' };
    const change = await fetch(`${service.url}/api/tables/berths/changes`, {
      method: 'POST',
      headers,
      body: JSON.stringify({
        changes: [
          { kind: 'change', key: ['7'], values: { name: 'seven' }, was: { name: 'berth 7' } },
        ],
      }),
    });
    const saved = (await change.json()) as { id: string };
    expect([change.status, saved]).toEqual([200, expect.anything()]);
    const undone = await fetch(`${service.url}/api/changes/${saved.id}/undo`, {
      method: 'POST',
      headers,
      body: '{}',
    });
    expect([undone.status, await undone.text()]).toEqual([200, expect.anything()]);
    const grouped = await ready(service, '/api/tables/berths/groups?group=fee&aggregate=count()');
    expect([grouped.status, grouped.body.total ?? grouped.body]).toEqual([200, expect.anything()]);
    const file = await service.get('/api/tables/berths/export?format=csv');
    expect([file.status, String(file.body).trim().split('\n').length]).toEqual([200, 20_001]);
  });
});

describe('live updates behind a transaction pooler', () => {
  beforeAll(async () => {
    pooler = await startPooler(fresh.url, { mode: 'transaction', sessions: 3 });
  });
  afterAll(() => pooler.stop());

  const gradeOf = async (direct: string | undefined): Promise<unknown> => {
    const service = await startService(pooler.url(fresh.url), '', { direct });
    const listener = await Listener.to(service, 'berths/live?filter=id < 10');
    try {
      return listener.reported[0]?.data;
    } finally {
      listener.leave();
      await service.close();
    }
  };

  it('come by polling, since nothing is heard through it', async () => {
    expect(await gradeOf(undefined)).toEqual({ grade: 'counters' });
  });

  it('come from the triggers where a direct way is named', async () => {
    expect(await gradeOf(fresh.url)).toEqual({ grade: 'triggers' });
  });
});

it('may come in between and leave: long statements are left alone, and lost connections found', async () => {
  pooler = await startPooler(fresh.url, { mode: 'transaction', sessions: 3 });
  const proxy = new LossyProxy(Number(new URL(fresh.url).port));
  const url = new URL(fresh.url);
  url.port = String(await proxy.listen());
  const database = new Database({ url: url.href, connections: 2, timeLimit: 120_000 });
  const value = (text: string): Promise<unknown> =>
    database.run({ text, parameters: [] }).then(({ rows }) => rows[0]?.[0]);
  try {
    expect(await value('select 1')).toBe('1');
    proxy.target = pooler.port;
    proxy.endAll();
    await until(
      () => value('select 2').catch(() => undefined),
      (found) => found === '2',
    );
    expect(await value('select 3 from pg_sleep(6)')).toBe('3');
    proxy.target = Number(new URL(fresh.url).port);
    proxy.endAll();
    await until(
      () => value('select 4').catch(() => undefined),
      (found) => found === '4',
    );
    proxy.loseAll();
    expect(await value('select 5')).toBe('5');
  } finally {
    proxy.close();
    await database.close();
    await pooler.stop();
  }
});
