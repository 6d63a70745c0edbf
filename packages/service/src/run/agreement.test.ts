import { checkQuery, type CheckedQuery } from '@ephoros/core/check';
import {
  byCodePoint,
  byCollator,
  queryRows,
  type MemoryRow,
  type TextOrder,
} from '@ephoros/core/memory';
import { parseParameters, type QueryParameter } from '@ephoros/core/query';
import { compileCount, compileRows } from '@ephoros/core/sql';
import fc from 'fast-check';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { readCatalog, type Catalog } from '../catalog/index.ts';
import { noConfiguration } from '../config/index.ts';
import { rowsEncoder } from '../encode/index.ts';
import { layOut } from '../http/window.ts';
import { filters, sorts, worlds } from '../testing/worlds.ts';
import { Database } from './index.ts';

type Parameters = Partial<Record<QueryParameter, string>>;

const setUp = [
  `create type level as enum ('low', 'mid', 'high')`,
  ...['C', 'und-x-icu'].flatMap((collation, index) => [
    `create schema w${index}`,
    `create table w${index}.parent (id int primary key, name text collate "${collation}", rank int)`,
    `create table w${index}.t (id int primary key, n int, big int8, d numeric(12,3), f float8, r real,
       s text collate "${collation}", b boolean, day date, ts timestamptz, local timestamp, e level,
       l text[] collate "${collation}", span interval, parent_id int references w${index}.parent)`,
    `create table w${index}.child (id int primary key, t_id int references w${index}.t, v numeric(12,3))`,
  ]),
];

const collator = new Intl.Collator('und');
const orders: readonly TextOrder[] = [
  byCodePoint,
  byCollator((one, other) => collator.compare(one, other)),
];

describe('PostgreSQL and memory', () => {
  let database: Database;
  let writer: pg.Client;
  let catalog: Catalog;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const fresh = await freshDatabase('ephoros_agreement', setUp);
    drop = fresh.drop;
    database = new Database({ url: fresh.url });
    writer = new pg.Client({ connectionString: fresh.url });
    await writer.connect();
    catalog = await readCatalog(database.pool, noConfiguration);
  });

  afterAll(async () => {
    await writer.end();
    await database.close();
    await drop();
  });

  function check(table: string, parameters: Parameters, now: Date): CheckedQuery {
    const { query, problems } = parseParameters(parameters);
    const description = catalog.describe(table);
    if (description === undefined) throw new Error(table);
    const read = checkQuery(query, description, { tables: catalog.describe, now });
    const all = [...problems, ...('problems' in read ? read.problems : [])];
    if ('problems' in read || all.length > 0) {
      throw new Error(
        `${JSON.stringify(parameters)}: ${all.map(({ message }) => message).join(' ')}`,
      );
    }
    return read.checked;
  }

  async function inPostgres(
    query: CheckedQuery,
  ): Promise<{ rows: MemoryRow[]; total: number; next: string | null; previous: string | null }> {
    const { rows, next, previous } = layOut(
      query,
      await database.run(compileRows(query, catalog.locate)),
    );
    const counted = await database.run(compileCount(query, catalog.locate));
    const json = rowsEncoder(query.columns, 'objects')(rows);
    return {
      rows: JSON.parse(json) as MemoryRow[],
      total: Number(counted.rows[0]?.[0]),
      next,
      previous,
    };
  }

  async function fill(
    schema: string,
    world: Record<string, readonly object[]>,
  ): Promise<Map<string, readonly MemoryRow[]>> {
    await writer.query(`truncate ${schema}.child, ${schema}.t, ${schema}.parent`);
    const kept = new Map<string, readonly MemoryRow[]>();
    for (const name of ['parent', 't', 'child']) {
      const rows = (world[name] ?? []).map((row, index) => ({ id: index + 1, ...row }));
      await writer.query(
        `insert into ${schema}.${name} select * from json_populate_recordset(null::${schema}.${name}, $1)`,
        [JSON.stringify(rows)],
      );
      const everything = check(`${schema}.${name}`, { limit: '1000', sort: 'id' }, new Date());
      kept.set(`${schema}.${name}`, (await inPostgres(everything)).rows);
    }
    return kept;
  }

  it.each([0, 1])(
    'agree on filters, sorts, windows and cursors (collation %i)',
    async (index) => {
      const schema = `w${index}`;
      const textOrder = orders[index] ?? byCodePoint;
      const now = new Date('2024-03-01T12:00:00Z');
      const questions = fc.array(
        fc.record({
          filter: fc.option(filters, { nil: undefined, freq: 4 }),
          search: fc.option(fc.constantFrom('a', 'AB', '100%', '_', '\"a b\" a', 'ä', '\\', '\"'), {
            nil: undefined,
            freq: 2,
          }),
          sort: sorts,
          nulls: fc.constantFrom('first', 'last'),
          limit: fc.integer({ min: 1, max: 9 }),
          offset: fc.integer({ min: 0, max: 30 }),
        }),
        { minLength: 12, maxLength: 12 },
      );
      await fc.assert(
        fc.asyncProperty(worlds, questions, async (world, asked) => {
          const kept = await fill(schema, world);
          const rowsOf = (table: string): readonly MemoryRow[] => kept.get(table) ?? [];
          for (const { filter, search, sort, nulls, limit, offset } of asked) {
            const about: Parameters = {
              sort,
              nulls,
              limit: String(limit),
              ...(filter === undefined ? {} : { filter }),
              ...(search === undefined ? {} : { search }),
            };
            const both = async (
              place: Parameters,
            ): Promise<{ next: string | null; previous: string | null }[]> => {
              const query = check(`${schema}.t`, { ...about, ...place }, now);
              const theirs = await inPostgres(query);
              const ours = queryRows(query, rowsOf(`${schema}.t`), { textOrder, rowsOf });
              const facts = (one: typeof theirs | typeof ours): object => ({
                about: { ...about, ...place },
                rows: one.rows,
                total: one.total,
                ends: [one.next === null, one.previous === null],
              });
              expect(facts(ours)).toEqual(facts(theirs));
              return [theirs, ours];
            };
            const [theirs, ours] = await both({ offset: String(offset) });
            // A cursor of either leads both to the same place; only lists are written differently.
            if (sort.split(',').some((term) => term.replace('-', '') === 'l')) continue;
            for (const source of [theirs, ours]) {
              if (source?.next) await both({ after: source.next });
              if (source?.previous) await both({ before: source.previous });
            }
          }
        }),
        { numRuns: 25, endOnFailure: true },
      );
    },
    120_000,
  );
});
