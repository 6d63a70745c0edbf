import { checkQuery, type CheckedQuery } from '@ephoros/core/check';
import {
  byCodePoint,
  byCollator,
  queryRows,
  type MemoryRow,
  type TextOrder,
} from '@ephoros/core/memory';
import { parseParameters, type QueryParameter } from '@ephoros/core/query';
import { compileCount, compileMileposts, compileRows } from '@ephoros/core/sql';
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

interface Mileposts {
  readonly posts: ReadonlyMap<number, readonly (string | null)[]>;
  readonly total: number;
}

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
    const answer = await database.run(compileRows(query, catalog.locate));
    const { rows, next, previous } = layOut(query, query, answer);
    const counted = await database.run(compileCount(query, catalog.locate));
    const json = rowsEncoder(query.columns, 'objects')(rows);
    return {
      rows: JSON.parse(json) as MemoryRow[],
      total: Number(counted.rows[0]?.[0]),
      next,
      previous,
    };
  }

  /** The sort values of every `step`-th row, and the number of rows, by each of the statements. */
  async function milepostsOf(query: CheckedQuery, step: number): Promise<Mileposts[]> {
    const { pass, steps } = compileMileposts(query, step, catalog.locate);
    const all = [pass, ...(steps === undefined ? [] : [steps])];
    const answers = await Promise.all(all.map((statement) => database.run(statement)));
    return answers.map(({ rows }) => {
      const total = Number(rows.at(-1)?.at(-1) ?? 0);
      const posts = new Map<number, readonly (string | null)[]>();
      for (const row of rows) {
        const number = Number(row.at(-1));
        if (number % step === 0 && !posts.has(number)) posts.set(number, row.slice(0, -1));
      }
      return { posts, total };
    });
  }

  /** A window is the same rows from the start, from a milepost, and from the end. */
  async function everyWay(whole: CheckedQuery, offset: number, limit: number): Promise<void> {
    const all = (await database.run(compileRows(whole, catalog.locate))).rows;
    const expected = all.slice(offset, offset + limit);
    const asked: CheckedQuery = { ...whole, offset, limit };
    const walk = async (walked: CheckedQuery): Promise<unknown> => {
      const answer = await database.run(compileRows(walked, catalog.locate));
      return layOut(asked, walked, answer).rows;
    };
    const left = all.length - offset - limit;
    if (left >= 0) {
      expect(await walk({ ...asked, beside: { kind: 'end' }, offset: left })).toEqual(expected);
    }
    for (const { posts, total } of await milepostsOf(whole, 3)) {
      // From post to post nothing is told of results shorter than a step.
      if (total > 0 || posts.size > 0) expect(total).toBe(all.length);
      for (const [number, values] of posts) {
        if (number > offset) continue;
        const beside = { kind: 'after', values } as const;
        expect(await walk({ ...asked, beside, offset: offset - number })).toEqual(expected);
      }
    }
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
            const whole = check(`${schema}.t`, { ...about, limit: '1000' }, now);
            await everyWay(whole, offset, limit);
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
