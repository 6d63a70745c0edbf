import { freshDatabase, perform } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { createClient, type Client } from './index.ts';
import { createLocalClient } from './local/index.ts';

let database: { url: string; drop: () => Promise<void> };
let service: TestService;
let client: Client;
let requests: URL[];

beforeAll(async () => {
  database = await freshDatabase('each_row', [
    'CREATE TABLE entries (id integer PRIMARY KEY, note text)',
    "INSERT INTO entries SELECT n * 10, 'entry ' || n FROM generate_series(1, 95) n",
    'CREATE TABLE loose (id integer)',
    'INSERT INTO loose SELECT n FROM generate_series(1, 30) n',
  ]);
  service = await startService(database.url);
}, 60_000);

afterAll(async () => {
  await service.close();
  await database.drop();
});

beforeEach(() => {
  requests = [];
  client = createClient({
    url: `${service.url}/api`,
    fetch: (address, options) => {
      requests.push(new URL(address as string));
      return fetch(address, options);
    },
  });
});

async function idsOf(rows: AsyncIterable<Readonly<Record<string, unknown>>>): Promise<number[]> {
  const ids: number[] = [];
  for await (const row of rows) ids.push(Number(row.id));
  return ids;
}

const upTo = (count: number, step: number): number[] =>
  Array.from({ length: count }, (_, index) => (index + 1) * step);

describe('every row of a question', () => {
  it('is taken block by block, once, whatever others write meanwhile', async () => {
    const ids: number[] = [];
    for await (const { id } of client.table('entries').eachRow({ blockSize: 20 })) {
      ids.push(id as number);
      if (id !== 300) continue;
      await perform(database.url, [
        "INSERT INTO entries VALUES (5, 'before'), (305, 'behind')",
        'DELETE FROM entries WHERE id IN (10, 900)',
      ]);
    }
    // What was written behind the place is there; what stood there all along comes once.
    const stood = upTo(95, 10).filter((id) => id !== 900);
    expect(ids.filter((id) => id !== 305)).toEqual(stood);
    expect(new Set(ids).size).toBe(ids.length);
    // Nobody counts, and nothing is requested after the end.
    expect(requests.map(({ searchParams }) => searchParams.get('total'))).toEqual(
      Array(5).fill('none'),
    );
    await perform(database.url, [
      'DELETE FROM entries WHERE id IN (5, 305)',
      "INSERT INTO entries VALUES (10, ''), (900, '')",
    ]);
  });

  it('is requested no further than rows are taken', async () => {
    for await (const { id } of client.table('entries').eachRow({ blockSize: 20 })) {
      if (id === 150) break;
    }
    expect(requests).toHaveLength(1);
    const stopped = new AbortController();
    const taken: unknown[] = [];
    const all = async (): Promise<void> => {
      for await (const row of client.table('entries').eachRow({ signal: stopped.signal })) {
        taken.push(row);
        if (taken.length === 3) stopped.abort(new Error('enough'));
      }
    };
    await expect(all()).rejects.toThrow('enough');
    expect(taken).toHaveLength(3);
  });

  it('begins at its place, and ends with its condition', async () => {
    const entries = client.table('entries');
    expect(await idsOf(entries.limit(30).page(3).eachRow({ blockSize: 10 }))).toEqual(
      upTo(95, 10).slice(60),
    );
    expect(await idsOf(entries.page(2).eachRow())).toEqual(upTo(95, 10).slice(50));
    expect(await idsOf(entries.offset(90).eachRow())).toEqual([910, 920, 930, 940, 950]);
    expect(await idsOf(entries.where((is) => is.above('id', 9_000)).eachRow())).toEqual([]);
    expect(await idsOf(entries.sort('-id').limit(1).eachRow())).toEqual(upTo(95, 10).reverse());
  });

  it('comes by its place where a table has no key, and from local data', async () => {
    const loose = await idsOf(client.table('loose').sort('id').eachRow({ blockSize: 10 }));
    expect(loose).toEqual(upTo(30, 1));
    // Of a table with a key the last cursor is the end, however full the block.
    requests = [];
    const full = client.table('entries').where((is) => is.atMost('id', 200));
    expect(await idsOf(full.eachRow({ blockSize: 20 }))).toHaveLength(20);
    expect(requests.filter(({ pathname }) => pathname.endsWith('/rows'))).toHaveLength(1);
    const local = createLocalClient({ t: { rows: upTo(12, 1).map((id) => ({ id })) } });
    expect(await idsOf(local.table('t').eachRow({ blockSize: 5 }))).toEqual(upTo(12, 1));
  });
});
