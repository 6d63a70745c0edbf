import fc from 'fast-check';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { adviceAnswer } from '../../../core/src/answer/index.ts';
import { kinds, kindsSetUp } from '../testing/kinds.ts';
import { startService, type TestService } from '../testing/service.ts';

let service: TestService;
let harbour: { url: string; drop: () => Promise<void> };
let database: pg.Client;

beforeAll(async () => {
  harbour = await freshDatabase('advice', [
    'create table quays (id int primary key, name text not null)',
    `create table berths (id int primary key, quay_id int not null references quays,
       fee numeric(8,2), state text not null, length int not null, note text, opened date not null)`,
    "insert into quays select n, 'Quay ' || n from generate_series(1, 20000) n",
    `insert into berths select n, n % 200 + 1, nullif(n % 400, 7), (array['free','taken','shut'])[n % 3 + 1],
       n % 97, case when n % 5 = 0 then md5(n::text) end, date '2020-01-01' + n % 900
     from generate_series(1, 60000) n`,
    'create table letters (id int primary key, body text, subject text)',
    'create table poems (id int primary key, body text)',
    "insert into letters select n, md5(n::text), 'Letter ' || n from generate_series(1, 20000) n",
    'insert into poems select n, md5(n::text) from generate_series(1, 20000) n',
    'create table parts (id int, kind text, primary key (id)) partition by range (id)',
    'create table parts_one partition of parts for values from (0) to (1000)',
    'create view seen as select id, state from berths',
    'analyze',
  ]);
  service = await startService(
    harbour.url,
    'tables: { seen: { key: [id] }, berths: { search: [note, quay.name] }, poems: { fullText: english } }',
    { explain: true },
  );
  database = new pg.Client({ connectionString: harbour.url });
  await database.connect();
});

afterAll(async () => {
  await service.close();
  await database.end();
  await harbour.drop();
});

const path = (of: string, parameters: Record<string, string>, table = 'berths'): string =>
  `/api/tables/${table}/${of}?${new URLSearchParams(parameters).toString()}`;
const advised = async (parameters: Record<string, string>, table?: string): Promise<any[]> => {
  const { status, body } = await service.get(path('advice', parameters, table));
  expect([status, body.errors]).toEqual([200, undefined]);
  return adviceAnswer.parse(body).advice;
};
const indexes = async (parameters: Record<string, string>, table?: string): Promise<string[]> => {
  const wanted = { ...parameters, explain: 'true', total: 'none', limit: '20' };
  return (await service.get(path('rows', wanted, table))).body.explanation.indexes;
};

/** Makes what is advised, looks, and takes it away again. */
async function having<Result>(
  statement: string,
  check: (name: string) => Promise<Result>,
): Promise<Result> {
  for (const one of statement.split('; ')) await database.query(one.replace(' concurrently', ''));
  await database.query('analyze');
  const { rows } = await database.query<{ name: string }>(
    "select indexrelid::regclass::text as name from pg_index where indrelid = any('{berths,quays,letters,poems}'::regclass[]) order by indexrelid desc limit 1",
  );
  const name = rows[0]?.name ?? '';
  try {
    return await check(name);
  } finally {
    await database.query(`drop index ${name}`);
  }
}

const on = 'create index concurrently on "public"."berths" ';

describe('advice', () => {
  it.each([
    [{ filter: "state = 'free'", sort: '-fee' }, '("state", "fee", "id")'],
    [
      { filter: "state = 'free' AND length > 3", sort: 'opened,-length' },
      '("state", "opened", "length" desc, "id" desc)',
    ],
    [{ sort: 'opened,fee' }, '("opened", "fee", "id")'],
    [{ sort: '-opened,-fee' }, '("opened" desc, "fee" desc nulls last, "id" desc)'],
    [{ sort: '-length,opened', nulls: 'first' }, '("length" desc, "opened", "id")'],
    [
      { filter: "length = 3 AND state = 'free' AND opened = DATE('2020-02-01')" },
      '("length", "state", "opened", "id")',
    ],
    [{ filter: 'fee IS NULL', sort: 'opened' }, '("fee", "opened", "id")'],
    [{ filter: 'length IN (3)', sort: 'fee' }, '("length", "fee", "id")'],
  ])('names what the plan then takes: %j', async (parameters, members) => {
    const [first] = await advised(parameters);
    expect(first).toMatchObject({ statement: on + members, served: null, kind: 'ordered' });
    const before = await indexes(parameters);
    await having(first.statement, async (name) => {
      expect(before).not.toContain(name);
      expect(await indexes(parameters)).toContain(name);
      const [again] = await advised(parameters);
      expect(again.served).toBe(name);
      const size = await database.query<{ size: string }>(
        `select pg_relation_size('${name}') as size`,
      );
      const ratio = first.size / Number(size.rows[0]?.size);
      // An index of many equal entries keeps each of them once.
      expect(ratio).toBeGreaterThan(0.7);
      expect(ratio).toBeLessThan(4.5);
    });
  });

  it('serves parts of texts by their trigrams', async () => {
    const parameters = { filter: "note LIKE '%abc%'", sort: '-length' };
    const trigrams = (await advised(parameters)).filter(({ kind }) => kind === 'trigrams');
    expect(trigrams).toMatchObject([
      {
        statement: `create extension if not exists pg_trgm; ${on}using gin ("note" gin_trgm_ops)`,
        served: null,
      },
    ]);
    await having(trigrams[0].statement, async (name) => {
      expect(await indexes(parameters)).toContain(name);
      const [served] = (await advised(parameters)).filter((one) => one.kind === 'trigrams');
      expect(served).toMatchObject({ table: 'berths', columns: ['note'], served: name });
      const { rows } = await database.query<{ size: string }>(
        `select pg_relation_size('${name}') as size`,
      );
      expect(served.size / Number(rows[0]?.size)).toBeGreaterThan(0.3);
      expect(served.size / Number(rows[0]?.size)).toBeLessThan(3);
    });
  });

  it('serves searches: of the table’s own columns, or of what its rows refer to', async () => {
    for (const [table, of] of [
      ['letters', 'letters'],
      ['berths', 'quays'],
    ] as const) {
      const wanted = (await advised({ search: 'abcd' }, table)).filter(
        ({ kind }) => kind === 'trigrams',
      );
      expect(wanted).toMatchObject([{ table: of, served: null }]);
      await having(wanted[0].statement, async (name) => {
        const [again] = (await advised({ search: 'abcd' }, table)).filter(
          ({ kind }) => kind === 'trigrams',
        );
        expect(again.served).toBe(name);
        expect(await indexes({ search: 'abcd' }, table)).toContain(name);
      });
    }
    // By words of a language, as the search itself reads them.
    const [words] = (await advised({ search: 'abcd' }, 'poems')).filter(
      ({ kind }) => kind === 'words',
    );
    await having(words.statement, async (name) => {
      expect(await indexes({ search: 'abcd' }, 'poems')).toContain(name);
      const again = (await advised({ search: 'abcd' }, 'poems')).filter(
        ({ kind }) => kind === 'words',
      );
      expect(again).toMatchObject([{ served: name }]);
    });
  });

  it('is right for every kind of type: what is made is taken, or nothing is advised', async () => {
    const columns = kinds.map(({ name, type }) => `${name} ${type}`).join(', ');
    const filled = kinds.map(({ values, type }) => {
      const list = values.map((value) => `'${value.replaceAll("'", "''")}'`).join(',');
      return `(array[null, ${list}])[1 + n % ${values.length + 1}]::${type.replace(/ collate.*/, '')}`;
    });
    const { url, drop } = await freshDatabase('advice_kinds', [
      ...kindsSetUp,
      `create table everything (id int primary key, filler int not null, ${columns})`,
      `insert into everything select n, n * 7 % 500, ${filled.join(', ')} from generate_series(1, 500) n`,
      'analyze',
      // So few rows are read faster without any index.
      "do $$ begin execute format('alter database %I set enable_seqscan = off', current_database()); execute format('alter database %I set enable_sort = off', current_database()); end $$",
    ]);
    const all = await startService(url, '', { explain: true });
    const own = new pg.Client({ connectionString: url });
    await own.connect();
    const wrong: unknown[] = [];
    try {
      await own.query('create extension if not exists pg_trgm');
      for (const { name, sortable } of kinds) {
        const textual = /^(?:txt|txtc|vc|ch|ci|nd|code|loose)$/.test(name);
        for (const request of [
          { filter: `${name} IS NULL`, sort: 'filler' },
          ...(sortable === false ? [] : [{ sort: name }, { sort: `-${name}` }]),
          ...(textual ? [{ filter: `${name} LIKE '%abc%'`, sort: 'filler' }] : []),
        ] as Record<string, string>[]) {
          const { status, body } = await all.get(path('advice', request, 'everything'));
          if (status !== 200) continue;
          for (const { statement, served, kind } of body.advice) {
            if (served !== null || (kind === 'ordered' && request.filter?.includes('LIKE')))
              continue;
            await own.query(
              statement
                .replace('create extension if not exists pg_trgm; ', '')
                .replace('index concurrently', 'index trial'),
            );
            const given = await all.get(
              path(
                'rows',
                { ...request, explain: 'true', total: 'none', columns: 'id' },
                'everything',
              ),
            );
            await own.query('drop index trial');
            const taken: string[] = given.body.explanation.indexes;
            if (!taken.includes('trial')) wrong.push([name, request, statement, taken]);
          }
        }
      }
    } finally {
      await own.end();
      await all.close();
      await drop();
    }
    expect(wrong).toEqual([]);
  });

  it('knows an index that serves, whichever way it is walked, and none that does not', async () => {
    const served = async (made: string, parameters: Record<string, string>): Promise<unknown> => {
      await database.query(`create index trial on berths ${made}`);
      try {
        return (await advised(parameters))[0].served;
      } finally {
        await database.query('drop index trial');
      }
    };
    const asked = { filter: "state = 'free' AND length = 3", sort: '-opened' };
    expect(await served('(length, state, opened, id)', asked)).toBe('trial');
    expect(await served('(state, length, opened desc, id desc)', asked)).toBe('trial');
    expect(await served('(state, length, opened, id, note)', asked)).toBe('trial');
    for (const made of [
      '(state, length, opened desc, id)',
      '(state, opened, length, id)',
      '(state, length)',
      "(state, length, opened, id) where state = 'free'",
      '(lower(state), length, opened, id)',
      '(state text_pattern_ops, length, opened, id)',
    ]) {
      expect([made, await served(made, asked)]).toEqual([made, null]);
    }
    expect(await advised({ sort: 'id' })).toMatchObject([{ served: 'berths_pkey' }]);
  });

  it('is for partitioned tables without others writing meanwhile, and for views none', async () => {
    expect(await advised({ filter: "kind = 'a'" }, 'parts')).toMatchObject([
      { statement: 'create index on "public"."parts" ("kind", "id")' },
    ]);
    expect(await advised({ sort: '-state' }, 'seen')).toEqual([]);
  });

  it('is a statement that PostgreSQL takes, for every query', async () => {
    const term = fc.constantFrom(
      "state = 'free'",
      'length > 3',
      'fee IS NULL',
      "note LIKE '%a%'",
      'length IN (1, 2)',
      "quay.name = 'Quay 3'",
      "opened BETWEEN DATE('2020-01-01') AND DATE('2020-02-01')",
      "NOT (state = 'shut')",
      'fee = 3 OR length = 3',
    );
    const sort = fc.uniqueArray(
      fc.constantFrom('fee', '-fee', 'length', '-length', 'quay.name', '-opened', '-id'),
      {
        maxLength: 3,
        selector: (one) => one.replace('-', ''),
      },
    );
    await fc.assert(
      fc.asyncProperty(fc.uniqueArray(term, { maxLength: 3 }), sort, async (terms, sorts) => {
        const parameters = {
          ...(terms.length > 0 && { filter: terms.map((one) => `(${one})`).join(' AND ') }),
          ...(sorts.length > 0 && { sort: sorts.join(',') }),
        };
        for (const { statement, kind } of await advised(parameters)) {
          if (kind !== 'ordered') continue;
          await database.query('begin');
          await database.query(statement.replace(' concurrently', ''));
          await database.query('rollback');
        }
      }),
      { numRuns: 40 },
    );
  });

  it('reports the cost as it is, and with the index where the extension hypopg is there', async () => {
    const asked = { filter: "state = 'free'", sort: '-fee' };
    const [{ cost: before }] = await advised(asked);
    expect(before).toEqual({ without: expect.any(Number) });
    const { rowCount } = await database.query(
      "select from pg_available_extensions where name = 'hypopg'",
    );
    // A server without it is what most people have.
    if (rowCount === 0) return;
    await database.query('create extension hypopg');
    try {
      const [{ cost }] = await advised(asked);
      expect(cost.without).toBe(before.without);
      expect(cost.with).toBeLessThan(before.without / 10);
      // Nothing of it is left in the session.
      expect((await advised(asked))[0].cost).toEqual(cost);
    } finally {
      await database.query('drop extension hypopg');
    }
  });

  it('is given where explanations are, and refuses what rows refuse', async () => {
    const wrong = await service.get(path('advice', { filter: 'fe > 1' }));
    expect([wrong.status, wrong.body.errors[0].code]).toEqual([400, 'unknown-column']);
    const closed = await startService(harbour.url, '', { explain: false });
    const { status, body } = await closed.get(path('advice', { sort: 'fee' }));
    await closed.close();
    expect([status, body.errors[0].code]).toEqual([400, 'explain-not-allowed']);
  });
});
