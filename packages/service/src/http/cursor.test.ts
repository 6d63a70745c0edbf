import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();
let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere);
});

afterAll(() => service.close());

interface Walk {
  readonly ids: string[];
  readonly pages: string[][];
}

/** All pages of a sort, by cursor, from one end to the other. */
async function walk(
  parameters: Record<string, string>,
  direction: 'next' | 'previous',
  start?: string,
): Promise<Walk> {
  const pages: string[][] = [];
  let cursor: string | null = start ?? null;
  for (let page = 0; page < 100; page += 1) {
    const place: Record<string, string> =
      cursor === null ? {} : { [direction === 'next' ? 'after' : 'before']: cursor };
    const { status, body } = await service.get(
      rowsPath('passages', {
        columns: 'id',
        shape: 'arrays',
        total: 'none',
        ...parameters,
        ...place,
      }),
    );
    expect([status, body.errors]).toEqual([200, undefined]);
    pages.push(body.rows.map(([id]: [string]) => id));
    cursor = body[direction];
    if (cursor === null) break;
  }
  const ordered = direction === 'next' ? pages : [...pages].reverse();
  return { ids: ordered.flat(), pages };
}

describe('a cursor by the key of a row', () => {
  it('is the place that the row has in the order, in answers and in files', async () => {
    for (const [sort, nulls] of [
      ['-toll', 'last'],
      ['note,-toll', 'first'],
      ['lock.name', 'last'],
    ]) {
      const order = { columns: 'id', sort: sort ?? '', nulls: nulls ?? '', total: 'none' };
      const whole = await service.get(rowsPath('passages', { ...order, limit: '30' }));
      const ids: string[] = whole.body.rows.map(({ id }: any) => id);
      const after = `key:${ids[9] ?? ''}`;
      const rest = await service.get(rowsPath('passages', { ...order, after, limit: '20' }));
      expect(rest.body.rows.map(({ id }: any) => id)).toEqual(ids.slice(10));
      const before = await service.get(
        rowsPath('passages', { ...order, before: after, limit: '4' }),
      );
      expect(before.body.rows.map(({ id }: any) => id)).toEqual(ids.slice(5, 9));
      const { total: _total, ...wanted } = order;
      const search = new URLSearchParams({ ...wanted, after, limit: '20', format: 'csv' });
      const file = await service.get(`/api/tables/passages/export?${search.toString()}`);
      expect(file.body.split('\r\n').slice(1, -1)).toEqual(ids.slice(10));
    }
  });

  it.each([
    ['key:0', 'cursor-row-gone'],
    ['key:1,2', 'malformed-cursor'],
    ['key:x', 'malformed-cursor'],
    ['key:', 'malformed-cursor'],
  ])('that is none is refused: %s', async (after, code) => {
    const { status, body } = await service.get(rowsPath('passages', { after }));
    expect([status, body.errors[0].code, body.errors[0].parameter]).toEqual([400, code, 'after']);
    const groups = await service.get(`/api/tables/passages/groups?group=status&after=${after}`);
    expect([groups.status, groups.body.errors[0].code]).toEqual([400, 'malformed-cursor']);
  });
});

describe('a walk by cursor', () => {
  it.each([
    ['passed_at', {}],
    ['-passed_at', {}],
    ['-toll', {}],
    ['toll', { nulls: 'first' }],
    ['toll,-wait_minutes', {}],
    ['-note,toll', {}],
    ['note,-toll', { nulls: 'first' }],
    ['-status,keeper_id,-draught_m', {}],
    ['keeper_id,-note', {}],
    ['-keeper_id,-note,-toll', { nulls: 'first' }],
    ['crossing,-direction', {}],
    ['-keeper.name,lock.canal.name', {}],
    ['boat.built,-boat.horsepower', { nulls: 'first' }],
  ])(
    'sorted by %s %j sees every row once, forwards and backwards',
    async (sort, more: Record<string, string>) => {
      const parameters = { sort, filter: 'lock_id = 7', limit: '61', ...more };
      const whole = await service.get(
        rowsPath('passages', { ...parameters, columns: 'id', limit: '1000' }),
      );
      const expected = whole.body.rows.map(({ id }: { id: string }) => id);
      expect(expected.length).toBeGreaterThan(300);
      expect((await walk(parameters, 'next')).ids).toEqual(expected);

      const last = await service.get(
        rowsPath('passages', { ...parameters, columns: 'id', offset: String(expected.length - 1) }),
      );
      const back = await walk(parameters, 'previous', last.body.previous);
      expect(back.ids).toEqual(expected.slice(0, -1));
    },
  );

  it('neither repeats nor skips while others write', async () => {
    const database = await freshDatabase('ephoros_walk', [
      'create table t (id int primary key, v int)',
      'insert into t select n, n % 7 from generate_series(1, 400) n',
    ]);
    const other = await startService(database.url);
    const writer = new pg.Client({ connectionString: database.url });
    await writer.connect();
    try {
      const visible: number[] = [];
      let cursor: string | null = null;
      for (let page = 0; page === 0 || cursor !== null; page += 1) {
        const place: Record<string, string> = cursor === null ? {} : { after: cursor };
        const { body } = await other.get(rowsPath('t', { sort: '-v', limit: '30', ...place }));
        visible.push(...body.rows.map(({ id }: { id: number }) => id));
        cursor = body.next;
        // Behind and before the walk: new rows, and some that were read or not yet are gone.
        await writer.query('insert into t select max(id) + 1, 6 from t');
        await writer.query('insert into t select max(id) + 1, 0 from t');
        await writer.query('delete from t where id = $1', [page * 7 + 3]);
      }
      expect(new Set(visible).size).toBe(visible.length);
      const { rows } = await writer.query<{ id: number }>('select id from t where id <= 400');
      expect(rows.filter(({ id }) => !visible.includes(id))).toEqual([]);
    } finally {
      await writer.end();
      await other.close();
      await database.drop();
    }
  });

  it('is reported by Link and by the window', async () => {
    const first = await service.get(rowsPath('passages', { limit: '5', total: 'none' }));
    expect(first.body.previous).toBeNull();
    const { body, headers } = await service.get(
      rowsPath('passages', { limit: '5', after: first.body.next, total: 'none' }),
    );
    expect(body.window).toMatchObject({ offset: null, count: 5 });
    expect(headers.get('link')).toContain(`after=${body.next}>; rel="next"`);
    expect(headers.get('link')).toContain(`before=${body.previous}>; rel="prev"`);
  });

  it.each([
    [{ sort: 'toll' }, 'cursor-of-another-sort'],
    [{ sort: '-toll' }, 'accepted'],
    [{ sort: '-toll', nulls: 'first' }, 'cursor-of-another-sort'],
    [{ sort: '-toll', page: '2' }, 'conflicting-parameters'],
  ])('is bound to its sort: %j is %s', async (parameters: Record<string, string>, outcome) => {
    const { body } = await service.get(rowsPath('passages', { sort: '-toll', limit: '1' }));
    const answer = await service.get(rowsPath('passages', { ...parameters, after: body.next }));
    expect(answer.status === 200 ? 'accepted' : answer.body.errors[0].code).toBe(outcome);
  });

  const forged = (content: unknown): string =>
    Buffer.from(JSON.stringify(content)).toString('base64url');

  it.each([
    ['', 'malformed-cursor'],
    ['xyz', 'malformed-cursor'],
    ['💧', 'malformed-cursor'],
    [forged(['id']), 'malformed-cursor'],
    [forged(['id', '1', '2']), 'malformed-cursor'],
    [forged(['id', 5]), 'malformed-cursor'],
    [forged(['id', null]), 'malformed-cursor'],
    [forged(['id', "1'; drop table passages"]), 'malformed-cursor'],
    [forged({ id: 1 }), 'malformed-cursor'],
    [forged(['-id', '1']), 'cursor-of-another-sort'],
  ])('refuses %s as %s', async (after, code) => {
    const { status, body } = await service.get(rowsPath('passages', { sort: 'id', after }));
    expect([status, body.errors?.[0].code]).toEqual([400, code]);
  });

  it('of values that no row can have is refused without a word of the database', async () => {
    const { status, body } = await service.get(
      rowsPath('passages', { sort: 'id', after: forged(['id', '9999999999999999999']) }),
    );
    expect([status, body.type]).toEqual([400, 'urn:ephoros:problem:refused-value']);
  });
});

describe('the plan of an indexed sort', () => {
  const client = new pg.Client({ connectionString: lowmere });
  beforeAll(() => client.connect());
  afterAll(() => client.end());

  it.each([
    ['passed_at', {}],
    ['-passed_at', {}],
    ['-toll', {}],
    ['toll', { nulls: 'first' }],
  ])(
    '%s %j walks the index, from the start and from a cursor, without a sort',
    async (sort, more: Record<string, string>) => {
      const statements: { text: string; values: unknown[] }[] = [];
      const { body } = await service.get(
        rowsPath('passages', { sort, limit: '50', offset: '4000', ...more }),
      );
      expect(body.next).toEqual(expect.any(String));
      for (const place of [{}, { after: body.next as string }, { before: body.next as string }]) {
        statements.push(await planned(sort, { ...more, ...place }));
      }
      for (const { text, values } of statements) {
        const { rows } = await client.query<{ 'QUERY PLAN': string }>({
          text: `explain ${text}`,
          values,
        });
        const plan = rows.map((row) => row['QUERY PLAN']).join('\n');
        expect(plan).toMatch(/Index (Only )?Scan/);
        expect(plan).not.toMatch(/^\s*(->\s+)?Sort /m);
      }
    },
  );

  async function planned(
    sort: string,
    more: Record<string, string>,
  ): Promise<{ text: string; values: unknown[] }> {
    const { checkQuery } = await import('@ephoros/core/check');
    const { parseParameters } = await import('@ephoros/core/query');
    const { compileRows } = await import('@ephoros/core/sql');
    const { body: table } = await service.get('/api/tables/passages');
    const read = checkQuery(parseParameters({ sort, limit: '50', ...more }).query, table);
    if ('problems' in read) throw new Error(read.problems[0]?.message);
    const { text, parameters } = compileRows(read.checked, (name) => ({ schema: 'public', name }));
    return { text, values: [...parameters] };
  }
});
