/** What callers get where the database lacks something, or where a table is another one by now. */
import type pg from 'pg';
import { serviceOverOwn } from '../testing/own-database.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

let url: string;
let database: pg.Client;
let service: TestService;
let close: () => Promise<void>;

beforeAll(async () => {
  ({ url, database, service, close } = await serviceOverOwn('ephoros_shortages', [
    'create table heap (id int primary key, s text not null, flag boolean, notes json[], spots point[])',
    `insert into heap select i, repeat(md5(i::text), 8), i % 2 = 0, array['[1, 2]'::json]
       from generate_series(1, 40000) i`,
    'create table changing (id int primary key, n int not null)',
    'insert into changing select i, i from generate_series(1, 100) i',
    'create materialized view tolls as select id, s from heap with no data',
    "alter database ephoros_shortages set temp_file_limit = '64kB'",
    "alter database ephoros_shortages set work_mem = '64kB'",
    'analyze',
  ]));
});

afterAll(() => close());

it('says that a materialized view was never filled', async () => {
  const { status, body } = await service.get(rowsPath('tolls'));
  expect([status, body.type]).toEqual([503, 'urn:ephoros:problem:not-populated']);
  expect(body.detail).toContain('REFRESH MATERIALIZED VIEW');
});

it('says that a query needs more temporary space than it may have', async () => {
  const { status, body } = await service.get(
    '/api/tables/heap/groups?group=s&sort=-count()&limit=2',
  );
  expect([status, body.type]).toEqual([507, 'urn:ephoros:problem:temporary-space']);
});

it('answers at once after a column has got another type', async () => {
  const path = rowsPath('changing', { filter: 'n > 90', limit: '1', sort: 'n', columns: 'n' });
  expect((await service.get(path)).body.rows).toEqual([{ n: 91 }]);
  await database.query('alter table changing alter n type text');
  const { status, body } = await service.get(path);
  // The condition does not fit the column any more, and the answer says so.
  expect([status, body.errors?.[0].code]).toEqual([400, 'type-mismatch']);
});

it.each(['A_EQUALS', 'A_CONTAINS', 'A_OVERLAPS'])(
  'refuses %s over lists whose members PostgreSQL cannot compare',
  async (name) => {
    for (const [column, code] of [
      ['notes', 'not-comparable'],
      ['spots', 'type-mismatch'],
    ] as const) {
      const filter = `${name}(${column}, ${column})`;
      const { status, body } = await service.get(rowsPath('heap', { filter }));
      expect([column, status, body.errors?.[0]?.code]).toEqual([column, 400, code]);
    }
  },
);

it('takes a boolean column as the condition of an aggregate', async () => {
  const { body } = await service.get('/api/tables/heap/aggregates?aggregate=max(id,flag)');
  expect(body.errors).toBeUndefined();
  const { rows } = await database.query('select max(id)::text as n from heap where flag');
  expect(String(Object.values(body.values)[0])).toBe((rows[0] as { n: string }).n);
});

it('offers no saved views where there is nowhere to save them', async () => {
  expect((await service.get('/api/caller')).body.may.views).toBe(false);
});

it('has an exact total with the last page, even where a total is not counted in time', async () => {
  const hasty = await startService(url, '', { countingTime: 0 });
  const { body } = await hasty.get(rowsPath('heap', { offset: '39990', total: 'estimate' }));
  expect(body.window).toMatchObject({ count: 10, total: 40_000, totalKind: 'exact' });
  await hasty.close();
});
