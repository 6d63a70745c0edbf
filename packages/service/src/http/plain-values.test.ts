import pg from 'pg';
import { createClient } from '../../../client/src/index.ts';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

type Parameters = Readonly<Record<string, string>>;

let url: string;
let drop: () => Promise<void>;
let service: TestService;
let database: pg.Client;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('ephoros_plain_values', [
    'create table moored (id int primary key, berth int, word text not null, plain int)',
    `insert into moored select i, nullif(i * 7 % 23, 4), chr(97 + i % 11), i % 5 from generate_series(1, 900) i`,
    'create index on moored (berth)',
    'create index on moored (word)',
    'analyze',
  ]));
  service = await startService(url);
  database = new pg.Client({ connectionString: url });
  await database.connect();
});

afterAll(async () => {
  await service.close();
  await database.end();
  await drop();
});

const values = async (column: string, parameters: Parameters = {}): Promise<any> => {
  const search = new URLSearchParams({ counts: 'false', ...parameters }).toString();
  return (await service.get(`/api/tables/moored/values/${column}?${search}`)).body;
};

const distinct = async (column: string, order = ''): Promise<unknown[]> => {
  const { rows } = await database.query(
    `select distinct ${column} as v from moored order by 1 ${order}`,
  );
  return rows.map(({ v }: { v: unknown }) => v);
};

const namesOf = (body: any): unknown[] => body.values.map(({ value }: any) => value);

describe('the values of an indexed column, without their counts', () => {
  it.each([
    ['berth', {}, ''],
    ['berth', { sort: '-berth' }, 'desc nulls last'],
    ['berth', { sort: 'berth', nulls: 'first' }, 'nulls first'],
    ['word', { sort: '-word' }, 'desc'],
    ['id', { limit: '1000' }, ''],
  ])('are those of all rows, of %s by %p', async (column, parameters, order) => {
    const body = await values(column, { limit: '200', ...parameters });
    const wanted = await distinct(column, order);
    expect(namesOf(body)).toEqual(wanted.slice(0, body.window.limit));
    expect(body.values[0]).toMatchObject({ count: null, filter: expect.stringContaining(column) });
    expect(body.window).toMatchObject({ total: null, totalKind: 'none' });
  });

  it.each([
    ['berth', {}, ''],
    ['berth', { sort: '-berth', nulls: 'first' }, 'desc nulls first'],
  ])('are walked by cursor, both ways: %s by %p', async (column, parameters, order) => {
    const wanted = await distinct(column, order);
    const pages: any[] = [await values(column, { ...parameters, limit: '5' })];
    while (pages.at(-1).next !== null) {
      pages.push(await values(column, { ...parameters, limit: '5', after: pages.at(-1).next }));
    }
    expect(pages.flatMap(namesOf)).toEqual(wanted);
    const back = await values(column, { ...parameters, limit: '5', before: pages.at(-1).previous });
    expect(namesOf(back)).toEqual(namesOf(pages.at(-2)));
    const skipped = await values(column, { ...parameters, limit: '5', offset: '10' });
    expect(namesOf(skipped)).toEqual(namesOf(pages[2]));
  });

  it.each([
    ['plain', {}],
    ['berth', { filter: 'plain = 2' }],
    ['word', { containing: 'c' }],
    ['word', { sort: '-count()' }],
    ['berth', { bins: '3' }],
  ])('are counted where no index tells them: %s, %p', async (column, parameters) => {
    const body = await values(column, parameters);
    expect(body.window.totalKind).toBe('exact');
    expect(body.values.every(({ count }: any) => count > 0)).toBe(true);
  });

  it('are requested rightly, or not at all', async () => {
    expect(await values('word', { counts: 'no' })).toMatchObject({ status: 400 });
  });
});

it('come without counts by a question in a body too, however truth is written there', async () => {
  const client = createClient({ url: `${service.url}/api` });
  // Too long for a URL.
  const filter = `id IN (${Array.from({ length: 900 }, (_, at) => at + 1).join(', ')})`;
  const whole = await client.values('moored', 'berth', { filter, limit: 5 }, { counts: true });
  expect(whole.values[0]?.count).toBeGreaterThan(0);
  for (const counts of [false, 'false']) {
    const answer = await fetch(`${service.url}/api/tables/moored/values/berth`, {
      method: 'POST',
      body: JSON.stringify({ limit: 5, counts }),
    });
    const { values: found } = (await answer.json()) as { values: { count: number | null }[] };
    expect(found.map(({ count }) => count)).toEqual([null, null, null, null, null]);
  }
  const wrong = await fetch(`${service.url}/api/tables/moored/values/berth`, {
    method: 'POST',
    body: JSON.stringify({ counts: 'perhaps' }),
  });
  expect(wrong.status).toBe(400);
});
