import { join } from 'node:path';
import { startCluster, type Cluster } from '../../../../demo/src/index.ts';
import { perform } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { startService, type TestService } from '../testing/service.ts';

jest.setTimeout(120_000);

const regions = ['north', 'middle', 'south'] as const;
const each = 4_000;
/** One server asks the others, each of which has a part of a table. */
let wanted: Cluster;
let parts: Cluster[] = [];
let service: TestService;

const start = (name: string, port: number): Promise<Cluster> =>
  startCluster({ folder: join(process.cwd(), '.ephoros', 'spread', name), port });

beforeAll(async () => {
  [wanted, ...parts] = await Promise.all([
    start('asked', 54_900),
    ...regions.map((region, index) => start(region, 54_910 + index * 10)),
  ]);
  await Promise.all(
    parts.map((part, index) =>
      perform(part.url('postgres'), [
        'drop table if exists public.passages',
        'create table public.passages (id int not null, region text not null, boat text not null, toll numeric(8,2), at date not null)',
        `insert into public.passages select i * 3 + ${index}, '${regions[index]}', 'Boat ' || i % 50, case when i % 7 > 0 then i % 90 end, date '2024-01-01' + i % 700 from generate_series(1, ${each}) i`,
        'create index on public.passages (id)',
        'analyze public.passages',
      ]),
    ),
  );
  await perform(wanted.url('postgres'), [
    'create extension if not exists postgres_fdw',
    'drop table if exists public.passages, public.years cascade',
    'create table public.passages (id int not null, region text not null, boat text not null, toll numeric(8,2), at date not null) partition by list (region)',
    ...parts.flatMap((part, index) => {
      const region = regions[index] ?? '';
      return [
        `drop server if exists ${region} cascade`,
        `create server ${region} foreign data wrapper postgres_fdw options (host '127.0.0.1', port '${part.port}', dbname 'postgres', connect_timeout '2')`,
        `create user mapping for current_user server ${region} options (user 'ephoros')`,
        `create foreign table public.passages_${region} partition of public.passages for values in ('${region}') server ${region} options (schema_name 'public', table_name 'passages')`,
      ];
    }),
    // Partitions of this server, which have a key and an index.
    'create table public.years (id int, at date, note text, primary key (id, at)) partition by range (at)',
    ...[2022, 2023, 2024].map(
      (year) =>
        `create table public.years_${year} partition of public.years for values from ('${year}-01-01') to ('${year + 1}-01-01')`,
    ),
    "insert into public.years select i, date '2022-01-01' + i % 1096, 'n' || i from generate_series(1, 9000) i",
    'create index on public.years (at)',
    'analyze public.passages, public.years',
  ]);
  service = await startService(
    wanted.url('postgres'),
    'tables: { passages: { key: [id], sort: id }, years: { sort: "-at" } }',
  );
});

afterAll(async () => {
  await service.close();
  for (const cluster of [wanted, ...parts]) await cluster.stop();
});

const get = async (path: string): Promise<any> => (await service.get(`/api/tables/${path}`)).body;

describe('a table whose parts lie on other servers', () => {
  it('is one table: in any order, at any place, counted and grouped', async () => {
    const { tables } = (await service.get('/api/tables')).body;
    // Parts of a table are not tables of their own.
    expect(tables.map(({ name }: { name: string }) => name)).toEqual(
      expect.arrayContaining(['passages', 'years']),
    );
    const first = await get('passages/rows?limit=3&total=exact');
    expect(first.rows.map(({ id }: { id: number }) => id)).toEqual([3, 4, 5]);
    expect(first.window.total).toBe(3 * each);
    const next = await get(`passages/rows?limit=3&after=${first.next}`);
    expect(next.rows.map(({ id }: { id: number }) => id)).toEqual([6, 7, 8]);
    const deep = await get('passages/rows?limit=2&offset=11000');
    expect(deep.rows.map(({ id }: { id: number }) => id)).toEqual([11003, 11004]);
    const sorted = await get("passages/rows?sort=-toll,id&limit=2&filter=region = 'south'");
    expect(sorted.rows[0]).toMatchObject({ toll: '89.00', region: 'south' });
    const groups = await get('passages/groups?group=region&aggregate=count(),sum(toll)');
    expect(groups.groups.map(({ count }: { count: number }) => count)).toEqual([each, each, each]);
    expect((await get('passages/rows/11003')).row).toMatchObject({ id: 11003 });
    const values = await get('passages/values/boat?limit=2');
    expect(values.values).toHaveLength(2);
  });

  it('shows that it is away where a part is, and answers what needs none of it', async () => {
    await parts[0]?.stop();
    const whole = await service.get('/api/tables/passages/rows?sort=boat&limit=1&total=none');
    expect(whole.status).toBe(503);
    expect(whole.body.type).toBe('urn:ephoros:problem:database-unavailable');
    const others = await service.get(
      "/api/tables/passages/rows?filter=region = 'south'&sort=boat&limit=1&total=none",
    );
    expect(others.status).toBe(200);
    // The service itself is as ready as before.
    expect((await service.get('/ready')).status).toBe(200);
    parts[0] = await start('north', 54_910);
    await until(
      async () => (await service.get('/api/tables/passages/rows?sort=boat&limit=1')).status,
      (status) => status === 200,
    );
  });
});

it('a table of partitions has its keys, cursors and places as any other', async () => {
  const first = await get('years/rows?limit=2&total=exact');
  expect(first.window.total).toBe(9_000);
  expect(first.rows[0].at).toBe('2024-12-31');
  const visible = new Set<string>();
  let path = 'years/rows?limit=1000';
  for (;;) {
    const { rows, next } = await get(path);
    for (const { id } of rows) visible.add(String(id));
    if (next === null) break;
    path = `years/rows?limit=1000&after=${String(next)}`;
  }
  expect(visible.size).toBe(9_000);
  const { id, at } = first.rows[0];
  expect((await get(`years/rows/${id},${at}`)).row).toMatchObject({ id, at });
  const years = await get('years/groups?group=year(at)');
  expect(years.groups).toHaveLength(3);
});
