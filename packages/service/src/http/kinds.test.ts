import fc from 'fast-check';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { kinds, kindsSetUp, type Kind } from '../testing/kinds.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const rounds = Number(process.env.EPHOROS_ROUNDS ?? 20);

jest.setTimeout(60_000 + rounds * 1_000);

let url: string;
let drop: () => Promise<void>;
let service: TestService;
let writer: pg.Client;

const quotedName = (name: string): string => `"${name}"`;

beforeAll(async () => {
  const sortable = kinds.filter((kind) => kind.sortable !== false);
  const fresh = await freshDatabase('ephoros_kinds', [
    ...kindsSetUp,
    ...kinds.map(({ name, type }) => `create table key_${name} (k ${type} primary key, n int)`),
    `create table every (id int primary key, ${sortable.map(({ name, type }) => `${quotedName(name)} ${type}`).join(', ')})`,
  ]);
  ({ url, drop } = fresh);
  writer = new pg.Client({ connectionString: url });
  await writer.connect();
  for (const { name, values } of kinds) {
    for (const [n, value] of values.entries()) {
      await writer.query(`insert into key_${name} values ($1, ${n})`, [value]);
    }
  }
  service = await startService(url);
});

afterAll(async () => {
  await service.close();
  await writer.end();
  await drop();
});

/** All rows of a table in windows, by cursor, forward and then all the way back. */
async function walked(
  table: string,
  parameters: Record<string, string>,
): Promise<{ forward: any[]; back: any[] }> {
  const step = async (more: Record<string, string>): Promise<any> => {
    const { status, body } = await service.get(rowsPath(table, { ...parameters, ...more }));
    if (status !== 200) throw new Error(JSON.stringify({ table, parameters, more, body }));
    return body;
  };
  const forward: any[] = [];
  const back: any[] = [];
  let page = await step({});
  forward.push(...page.rows);
  // A walk that goes in circles comes to an end here.
  for (let pages = 0; page.next !== null && pages < 200; pages += 1) {
    page = await step({ after: page.next });
    forward.push(...page.rows);
  }
  back.unshift(...page.rows);
  for (let pages = 0; page.previous !== null && pages < 200; pages += 1) {
    page = await step({ before: page.previous });
    back.unshift(...page.rows);
  }
  return { forward, back };
}

/** A key's part in a URL: texts as they are, everything else as JSON. */
function keyPart(value: unknown, kind: Kind): string {
  const asJson = typeof value !== 'string' || kind.type === 'jsonb';
  return encodeURIComponent(asJson ? JSON.stringify(value) : value);
}

describe.each(kinds.map((kind): [string, Kind] => [kind.type, kind]))(
  'a key of %s',
  (_type, kind) => {
    it('leads from every row that is shown to the row itself, and walks over all of them', async () => {
      const table = `key_${kind.name}`;
      const { rows: expected } = await writer.query<{ n: number }>(
        `select n from ${table} order by k`,
      );
      const { forward, back } = await walked(table, { limit: '2' });
      expect(forward.map(({ n }) => n)).toEqual(expected.map(({ n }) => n));
      expect(back).toEqual(forward);
      for (const { k, n } of forward) {
        const { status, body } = await service.get(`/api/tables/${table}/rows/${keyPart(k, kind)}`);
        expect({ k, status, row: body.row }).toEqual({ k, status: 200, row: { k, n } });
        // The same as a condition, whatever the type of the key is.
        const filter = `SELECTED('${keyPart(k, kind).replaceAll("'", "''")}')`;
        const chosen = await service.get(rowsPath(table, { filter }));
        expect({ k, said: chosen.body.errors, rows: chosen.body.rows }).toEqual({
          k,
          said: undefined,
          rows: [{ k, n }],
        });
      }
      for (const wrong of ['nonsense', '', '-', '%F0%9F%9B%B6', '99999999999999999999']) {
        const { status } = await service.get(`/api/tables/${table}/rows/${wrong}`);
        expect([200, 404]).toContain(status);
      }
    });
  },
);

const sortable = kinds.filter((kind) => kind.sortable !== false);
const rowsOfAll = fc.array(
  fc.record(
    Object.fromEntries(
      sortable.map(({ name, values }) => [
        name,
        fc.option(fc.constantFrom(...values), { freq: 4 }),
      ]),
    ),
  ),
  { minLength: 3, maxLength: 25 },
);
const sorts = fc.uniqueArray(
  fc.record({ column: fc.constantFrom(...sortable.map(({ name }) => name)), down: fc.boolean() }),
  { minLength: 1, maxLength: 3, selector: ({ column }) => column },
);

describe('rows of every type', () => {
  const texts = sortable.filter(
    ({ type }) => /text|char|name|code|loose/.test(type) && !type.includes('['),
  );

  it('are walked in the order that the database itself has, by cursor, offset and milepost', async () => {
    await fc.assert(
      fc.asyncProperty(
        rowsOfAll,
        sorts,
        fc.constantFrom('first', 'last'),
        fc.integer({ min: 1, max: 7 }),
        async (rows, terms, nulls, limit) => {
          await writer.query('truncate every');
          const names = sortable.map(({ name }) => quotedName(name)).join(', ');
          for (const [id, row] of rows.entries()) {
            const values = sortable.map(({ name }) => row[name] ?? null);
            const places = values.map((_value, at) => `$${at + 2}`).join(', ');
            await writer.query(`insert into every (id, ${names}) values ($1, ${places})`, [
              id,
              ...values,
            ]);
          }
          const order = terms.map(
            ({ column, down }) => `"${column}" ${down ? 'desc' : 'asc'} nulls ${nulls}`,
          );
          const last = terms.at(-1)?.down === true ? 'desc' : 'asc';
          const { rows: ordered } = await writer.query<{ id: number }>(
            `select id from every order by ${order.join(', ')}, id ${last}`,
          );
          const expected = ordered.map(({ id }) => id);
          const sort = terms.map(({ column, down }) => `${down ? '-' : ''}${column}`).join(',');
          const wanted = { columns: 'id', sort, nulls, limit: String(limit), total: 'none' };
          const { forward, back } = await walked('every', wanted);
          expect(forward.map(({ id }) => id)).toEqual(expected);
          expect(back.map(({ id }) => id)).toEqual(expected);
          const { body } = await service.get(rowsPath('every', { ...wanted, offset: '1' }));
          expect(body.rows.map(({ id }: any) => id)).toEqual(expected.slice(1, 1 + limit));
        },
      ),
      { numRuns: rounds },
    );
  });

  it('are searched and matched by patterns, whatever their collation', async () => {
    await writer.query('truncate every');
    await writer.query(
      `insert into every (id, nd, ci, ch) values (1, 'Abc', 'Abc', 'Abc'), (2, 'x', 'x', 'x')`,
    );
    const ids = async (parameters: Record<string, string>): Promise<unknown> => {
      const { status, body } = await service.get(
        rowsPath('every', { columns: 'id', ...parameters }),
      );
      return status === 200 ? body.rows.map(({ id }: any) => id) : body;
    };
    for (const name of ['nd', 'ci', 'ch']) {
      expect(await ids({ filter: `${name} LIKE 'A%c'` })).toEqual([1]);
      expect(await ids({ filter: `contains(${name}, 'bc')` })).toEqual([1]);
      expect(await ids({ filter: `CASEI(${name}) LIKE 'ab%'` })).toEqual([1]);
    }
    // Letter case does not count in these two.
    expect(await ids({ filter: "nd = 'aBC' AND ci = 'aBC'" })).toEqual([1]);
    expect(await ids({ filter: "ci LIKE 'aB%'" })).toEqual([1]);
    expect(await ids({ search: 'BC' })).toEqual([1]);
  });

  it('are found by the texts that their own type takes for equal', async () => {
    await fc.assert(
      fc.asyncProperty(
        rowsOfAll,
        fc.constantFrom(...texts),
        fc.constantFrom('=', '<>', '<', '>='),
        fc.constantFrom('', 'a', 'A', 'b', 'ab', 'AB', 'B', 'zoË', 'c'),
        async (rows, { name, type }, comparator, text) => {
          await writer.query('truncate every');
          for (const [id, row] of rows.entries()) {
            await writer.query(`insert into every (id, "${name}") values ($1, $2)`, [
              id,
              row[name] ?? null,
            ]);
          }
          const plain = type
            .replace(/\(\d+\)/, '')
            .replace(/^char$/, 'bpchar')
            .replace(/ collate.*/, '');
          const { rows: found } = await writer.query<{ id: number }>(
            `select id from every where "${name}" ${comparator} $1::${plain} order by id`,
            [text],
          );
          const filter = `${name} ${comparator} '${text}'`;
          const { body } = await service.get(
            rowsPath('every', { columns: 'id', filter, sort: 'id', limit: '100' }),
          );
          expect({ filter, ids: body.rows?.map(({ id }: any) => id) }).toEqual({
            filter,
            ids: found.map(({ id }) => id),
          });
          const listed = await service.get(
            rowsPath('every', {
              columns: 'id',
              filter: `${name} IN ('${text}', 'nothing')`,
              limit: '100',
            }),
          );
          expect(listed.status).toBe(200);
        },
      ),
      { numRuns: rounds },
    );
  });
});
