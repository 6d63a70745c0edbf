import pg from 'pg';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { codesIn, sendTo, type Answered, type Sending } from '../testing/sending.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere, passages } = testDatabases();

let service: TestService;
let records: { url: string; drop: () => Promise<void> };
let database: pg.Client;

beforeAll(async () => {
  records = await freshDatabase('records', []);
  service = await startService(lowmere, '', { records: records.url });
  database = new pg.Client({ connectionString: records.url });
  await database.connect();
});

afterAll(async () => {
  await service.close();
  await database.end();
  await records.drop();
});

const send = (
  method: string,
  path: string,
  body?: unknown,
  { url = service.url, ...more }: Sending & { readonly url?: string } = {},
): Promise<Answered> => sendTo(method, `${url}/api/selections${path}`, body, more);

const remaining = async (selection: object): Promise<string> =>
  (await send('POST', '', selection)).body.id;
const totalOf = async (filter: string, more: Record<string, string> = {}): Promise<number> => {
  const { body } = await service.get(rowsPath('passages', { filter, limit: '1', ...more }));
  return body.window.total;
};
const many = Array.from({ length: 5_000 }, (_, index) => [String(index + 1)]);

describe('a stored selection', () => {
  it('of many keys is named in any question, combined, grouped, summed and paged', async () => {
    const made = await send('POST', '', { table: 'passages', keys: many });
    expect(made.status).toBe(201);
    expect(made.headers.get('Location')).toBe(`/api/selections/${made.body.id}`);
    expect(made.body).toMatchObject({
      kind: 'keys',
      count: 5_000,
      countKind: 'exact',
      keys: 5_000,
      missing: 0,
    });
    const selected = `SELECTED('stored:${made.body.id}')`;
    expect(await totalOf(selected)).toBe(5_000);
    expect(await totalOf(`${selected} AND id > 4990`)).toBe(10);
    expect(await totalOf(`NOT ${selected}`)).toBe(passages - 5_000);
    expect(await totalOf(`SELECTED('9001','stored:${made.body.id}')`)).toBe(5_001);
    const { body } = await service.get(
      `/api/tables/passages/groups?${new URLSearchParams({ group: 'status', aggregate: `count(${selected}),count()` }).toString()}`,
    );
    const counts = body.groups.map(({ aggregates }: any) =>
      Number(aggregates[`count(${selected})`]),
    );
    expect(counts.reduce((sum: number, one: number) => sum + one, 0)).toBe(5_000);
    const { body: page } = await service.get(
      rowsPath('passages', {
        filter: selected,
        sort: '-id',
        offset: '4000',
        limit: '3',
        columns: 'id',
      }),
    );
    expect(page.rows.map(({ id }: any) => id)).toEqual(['1000', '999', '998']);
  });

  it('is scrolled through anywhere by the keys of each window, with no holes where rows go', async () => {
    const { url, drop } = await freshDatabase('kept_places', [
      'create table marks (id int primary key, weight int, note text)',
      `insert into marks select n, nullif(n % 7, 3), 'note ' || n from generate_series(1, 6000) n`,
    ]);
    const own = await startService(url, '', { records: records.url });
    try {
      const keys = Array.from({ length: 3_000 }, (_, index) => [String(2 * index + 1)]);
      const made = await send('POST', '', { table: 'marks', keys }, own);
      const pending = (more: Record<string, string>): Promise<{ body: any }> =>
        own.get(
          rowsPath('marks', {
            filter: `SELECTED('stored:${made.body.id}') AND id > 100`,
            sort: '-weight',
            limit: '50',
            explain: 'true',
            ...more,
          }),
        );
      const windows = async (): Promise<any[]> => {
        const read: any[] = [];
        for (const offset of ['0', '49', '1400', '2930', '2940', '5000']) {
          const { rows, window } = (await pending({ offset })).body;
          read.push([rows, window.total]);
        }
        return read;
      };
      // Walked at first; by places as soon as they are known.
      const walked = await windows();
      await until(
        async () => (await pending({ offset: '1400' })).body.explanation.way.from,
        (from) => from === 'places',
      );
      expect(await windows()).toEqual(walked);
      const { body } = await pending({ offset: '2900' });
      expect([body.next === null, body.previous === null]).toEqual([true, false]);
      // By cursor from there, and back.
      const before = (await pending({ before: body.previous })).body;
      expect(before.rows).toEqual((await pending({ offset: '2850' })).body.rows);
      const [gone] = (await pending({ offset: '10' })).body.rows;
      await perform(url, [`delete from marks where id = ${gone.id}`]);
      const after = (await pending({ offset: '0' })).body;
      expect(after.rows).toHaveLength(50);
      expect(after.rows).not.toContainEqual(gone);
      expect(after.explanation.way.from).toBe('start');
    } finally {
      await own.close();
      await drop();
    }
  });

  it('of all that match but some means those that come to match later, too', async () => {
    const made = await send('POST', '', {
      table: 'passages',
      filter: 'toll > 100',
      search: 'gate',
      except: [['1']],
    });
    const matching = await totalOf('toll > 100 AND id <> 1', { search: 'gate' });
    expect(made.body).toMatchObject({ kind: 'matching', count: matching, keys: 1 });
    expect(made.body).not.toHaveProperty('missing');
    // What is unknown to the condition is not selected, and so among the others.
    expect(await totalOf(`NOT SELECTED('stored:${made.body.id}')`)).toBe(passages - matching);
    const json = await send('POST', '', {
      table: 'passages',
      filter: { op: '>', args: [{ property: 'toll' }, 100] },
    });
    expect(json.body.count).toBe(await totalOf('toll > 100'));
  });

  it('is added to, taken from, and dropped', async () => {
    const id = await remaining({ table: 'passages', keys: [['1'], ['2'], ['2']] });
    const changed = await send('PATCH', `/${id}`, { add: [['3'], ['4']], remove: [['1'], ['77']] });
    expect(changed.body).toMatchObject({ id, keys: 3, count: 3 });
    expect((await send('GET', `/${id}`)).body).toEqual(changed.body);
    expect(await totalOf(`SELECTED('stored:${id}') AND id = 1`)).toBe(0);
    const matching = await remaining({ table: 'passages', filter: 'id <= 10' });
    expect((await send('PATCH', `/${matching}`, { remove: [['3']] })).body.count).toBe(9);
    expect((await send('PATCH', `/${matching}`, { add: [['3']] })).body.count).toBe(10);
    const dropped = await send('DELETE', `/${id}`);
    expect([dropped.status, dropped.body]).toEqual([204, '']);
    expect(codesIn(await send('GET', `/${id}`))).toEqual(['id unknown-selection']);
    expect((await send('DELETE', `/${id}`)).status).toBe(404);
    const refused = await service.get(
      rowsPath('passages', { filter: `id > 1 AND SELECTED('stored:${id}')` }),
    );
    expect(refused.status).toBe(404);
    expect(refused.body.errors).toMatchObject([
      { code: 'unknown-selection', parameter: 'filter', position: 20 },
    ]);
  });

  it('shows how many of its keys have no row, and keeps them', async () => {
    const made = await send('POST', '', { table: 'passages', keys: [['1'], ['99999999']] });
    expect(made.body).toMatchObject({ keys: 2, count: 1, missing: 1 });
  });

  it('takes keys of several parts, whatever they hold', async () => {
    const { url, drop } = await freshDatabase('kept_keys', [
      `create table pairs (a text, b int, note text, primary key (a, b))`,
      `insert into pairs values ('x, y', 1, 'one'), ('%', 2, 'two'), ('stored:', 3, 'three')`,
      `insert into pairs select 'n' || n, n, 'more' from generate_series(1, 300) n`,
    ]);
    const own = await startService(url, '', { records: url });
    try {
      const keys = [
        ['x, y', 1],
        ['%', '2'],
        ['stored:', 3],
        ...many.slice(0, 300).map(([n]) => [`n${n}`, n]),
      ];
      const made = await send('POST', '', { table: 'pairs', keys }, own);
      expect(made.body).toMatchObject({ keys: 303, count: 303, missing: 0 });
      const path = rowsPath('pairs', {
        filter: `SELECTED('stored:${made.body.id}')`,
        sort: '-note',
        limit: '2',
      });
      expect((await own.get(path)).body.rows.map(({ note }: any) => note)).toEqual([
        'two',
        'three',
      ]);
      // Its own tables are published to nobody.
      expect((await own.get('/api/tables')).body.tables.map(({ name }: any) => name)).toEqual([
        'pairs',
      ]);
      expect(
        (await own.get(rowsPath('pairs', { filter: "SELECTED('stored%3A,3')" }))).body.window.total,
      ).toBe(1);
    } finally {
      await own.close();
      await drop();
    }
  });

  it.each([
    ['{', 'malformed-body'],
    [[1], 'malformed-body'],
    [{ keys: [['1']] }, 'table malformed-body'],
    [{ table: 'passages' }, 'malformed-body'],
    [{ table: 'passages', keys: [['1']], filter: 'id = 1' }, 'filter malformed-body'],
    [{ table: 'passages', keys: [['1'], '2'] }, 'keys[1] malformed-body'],
    [{ table: 'passages', keys: [['1'], ['1', '2']] }, 'keys[1] malformed-key'],
    [
      { table: 'passages', keys: [['1'], ['one'], ['two']] },
      'keys[1] invalid-value, keys[2] invalid-value',
    ],
    [{ table: 'passages', filter: 'tol > 1' }, 'filter unknown-column'],
    [{ table: 'passages', filter: 'toll >' }, 'filter unexpected-end'],
    [{ table: 'passages', filter: "SELECTED('stored:x')" }, 'filter nested-selection'],
    [{ table: 'passages', except: [['x']] }, 'except[0] invalid-value'],
    [{ table: 'nothing', keys: [] }, 'table unknown-table'],
    [{ table: 'passages', keys: [], colour: 'red' }, 'colour unknown-parameter'],
  ])('is not made of %j', async (body, message) => {
    const answer = await send('POST', '', body);
    expect(answer.status).toBe(message === 'table unknown-table' ? 404 : 400);
    expect(codesIn(answer).join(', ')).toBe(message);
  });

  it('is about its own table, and made by JSON that says so', async () => {
    const id = await remaining({ table: 'boats', keys: [['1']] });
    const other = await service.get(rowsPath('passages', { filter: `SELECTED('stored:${id}')` }));
    expect(other.body.errors).toMatchObject([
      { code: 'selection-of-another-table', message: 'This selection belongs to table boats.' },
    ]);
    const form = await send('POST', '', { table: 'boats', keys: [] }, { type: 'text/plain' });
    expect(form.status).toBe(415);
    expect((await send('PUT', `/${id}`, {})).status).toBe(405);
  });

  it('goes when nobody has used it for 30 days', async () => {
    const [old, used] = [
      await remaining({ table: 'boats', keys: [['1']] }),
      await remaining({ table: 'boats', keys: [['2']] }),
    ];
    await perform(records.url, [
      `update ephoros.selections set used_at = now() - interval '31 days' where id = '${old}'`,
      `update ephoros.selections set used_at = now() - interval '29 days' where id = '${used}'`,
    ]);
    expect((await send('GET', `/${old}`)).status).toBe(404);
    expect((await send('GET', `/${used}`)).body.count).toBe(1);
    const again = await startService(lowmere, '', { records: records.url });
    try {
      await send('POST', '', { table: 'boats', keys: [['3']] }, again);
      const { rows } = await database.query(
        'select id from ephoros.selections where id = any($1)',
        [[old, used]],
      );
      expect(rows).toEqual([{ id: used }]);
    } finally {
      await again.close();
    }
  });

  it('is the same in all processes, each of which sees what another has changed', async () => {
    const id = await remaining({ table: 'boats', keys: [['1']] });
    const other = await startService(lowmere, '', { records: records.url });
    try {
      const path = rowsPath('boats', { filter: `SELECTED('stored:${id}')`, limit: '1' });
      expect((await other.get(path)).body.window.total).toBe(1);
      await send('PATCH', `/${id}`, { add: [['2']] });
      expect((await other.get(path)).body.window.total).toBe(2);
      // Two at once lose nothing of each other.
      await Promise.all(
        [...Array(20).keys()].map((index) =>
          send(
            'PATCH',
            `/${id}`,
            { add: [[String(index + 10)]] },
            index % 2 === 0 ? other : service,
          ),
        ),
      );
      expect((await other.get(path)).body.window.total).toBe(22);
    } finally {
      await other.close();
    }
  });

  it('outlives changes of its table, and says where it no longer fits', async () => {
    const { url, drop } = await freshDatabase('kept_changes', [
      'create table notes (id int primary key, colour text)',
      `insert into notes select n, 'red' from generate_series(1, 5) n`,
    ]);
    const own = await startService(url, '', { records: records.url });
    try {
      const byKeys = (await send('POST', '', { table: 'notes', keys: [['1'], ['2']] }, own)).body
        .id;
      const byColour = (await send('POST', '', { table: 'notes', filter: "colour = 'red'" }, own))
        .body.id;
      await perform(url, [
        'delete from notes where id = 2',
        'alter table notes drop column colour',
      ]);
      expect((await send('GET', `/${byKeys}`, undefined, own)).body).toMatchObject({
        count: 1,
        missing: 1,
      });
      const result = await own.get(
        rowsPath('notes', { filter: `SELECTED('stored:${byColour}')`, columns: 'id,colour' }),
      );
      const again =
        result.status === 400
          ? result
          : await own.get(rowsPath('notes', { filter: `SELECTED('stored:${byColour}')` }));
      expect(again.body.errors.map(({ code }: any) => code)).toContain('selection-outdated');
    } finally {
      await own.close();
      await drop();
    }
  });
});
