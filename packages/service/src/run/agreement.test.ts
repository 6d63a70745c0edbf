import type { CheckedQuery } from '@ephoros/core/check';
import { byCodePoint, queryRows, type MemoryRow } from '@ephoros/core/memory';
import {
  canWalkParents,
  compileCount,
  compileMileposts,
  compilePlaces,
  compileRows,
  compileChunks,
  cursorColumns,
  keyColumns,
  chunkBetween,
  stepsFrom,
} from '@ephoros/core/sql';
import fc from 'fast-check';
import { rowsEncoder } from '../encode/index.ts';
import { orders, TwoExecutors, type Parameters } from '../testing/two-executors.ts';
import { filters, sorts, fixtures } from '../testing/fixtures.ts';
import { layOut, rowCursor } from '../query/index.ts';

interface Mileposts {
  readonly posts: ReadonlyMap<number, readonly (string | null)[]>;
  readonly total: number;
}

jest.setTimeout(60_000 + Number(process.env.EPHOROS_ROUNDS ?? 0) * 1_500);

describe('PostgreSQL and memory', () => {
  let both: TwoExecutors;

  beforeAll(async () => {
    both = await TwoExecutors.start('ephoros_agreement');
  });

  afterAll(() => both.close());

  async function inPostgres(
    query: CheckedQuery,
  ): Promise<{ rows: MemoryRow[]; total: number; next: string | null; previous: string | null }> {
    const answer = await both.database.run(compileRows(query, both.catalog.locate));
    const { rows, next, previous } = layOut(query, query, answer, rowCursor(query));
    // Walked parent by parent, or value by value, the same rows come.
    for (const byParents of canWalkParents(query) ? (['key', 'value'] as const) : []) {
      const walked = { ...query, byParents };
      expect((await both.database.run(compileRows(walked, both.catalog.locate))).rows).toEqual(
        answer.rows,
      );
    }
    const counted = await both.database.run(compileCount(query, both.catalog.locate));
    const { json } = rowsEncoder(query)(rows);
    return {
      rows: JSON.parse(json) as MemoryRow[],
      total: Number(counted.rows[0]?.[0]),
      next,
      previous,
    };
  }

  /** The sort values of every `step`-th row, and the number of rows, by each of the statements. */
  async function milepostsOf(query: CheckedQuery, step: number): Promise<Mileposts[]> {
    const { pass, steps } = compileMileposts(query, step, both.catalog.locate);
    const answers = [(await both.database.run(pass)).rows];
    if (steps !== undefined) {
      const rows: (readonly (string | null)[])[] = [];
      for (const one of steps) {
        const before = Number(rows.at(-1)?.at(-1) ?? 0);
        rows.push(...(await both.database.run(stepsFrom(one, before, step))).rows);
      }
      answers.push(rows);
    }
    return answers.map((rows) => {
      const total = Number(rows.at(-1)?.at(-1) ?? 0);
      const posts = new Map<number, readonly (string | null)[]>();
      for (const row of rows) {
        const number = Number(row.at(-1));
        if (number > 0 && number % step === 0 && !posts.has(number))
          posts.set(number, row.slice(0, -1));
      }
      return { posts, total };
    });
  }

  /** The keys of a result in its order: by one sort, and chunk by chunk, wherever the chunks are cut. */
  async function placesOf(
    whole: CheckedQuery,
    all: readonly (readonly (string | null)[])[],
  ): Promise<void> {
    const { locate } = both.catalog;
    const width = whole.columns.length;
    // Behind the columns stand those of the sort that are not among them.
    const further = cursorColumns(whole).map(({ name }) => name);
    const at = (name: string): number =>
      further.includes(name)
        ? width + further.indexOf(name)
        : whole.columns.findIndex((column) => column.name === name);
    const keys = all.map((row) => keyColumns(whole).map(({ name }) => row[at(name)]));
    expect((await both.database.run(compilePlaces(whole, locate))).rows).toEqual(keys);
    const templates = compileChunks(whole, locate);
    if (templates === undefined) return;
    const posts = all
      .filter((_row, index) => index % 3 === 2)
      .map((row) => whole.sort.map(({ column }) => row[at(column.name)] ?? null));
    const found: unknown[] = [];
    for (let index = 0; index <= posts.length; index += 1) {
      for (const statement of chunkBetween(templates, posts[index - 1], posts[index])) {
        found.push(...(await both.database.run(statement)).rows);
      }
    }
    expect(found).toEqual(keys);
  }

  /** A window is the same rows from the start, from a milepost, and from the end. */
  async function everyWay(whole: CheckedQuery, offset: number, limit: number): Promise<void> {
    const all = (await both.database.run(compileRows(whole, both.catalog.locate))).rows;
    const expected = all.slice(offset, offset + limit);
    const wanted: CheckedQuery = { ...whole, offset, limit };
    const walk = async (walked: CheckedQuery): Promise<unknown> => {
      const answer = await both.database.run(compileRows(walked, both.catalog.locate));
      return layOut(wanted, walked, answer, rowCursor(wanted)).rows;
    };
    await placesOf(whole, all);
    const left = all.length - offset - limit;
    if (left >= 0) {
      expect(await walk({ ...wanted, anchor: { kind: 'end' }, offset: left })).toEqual(expected);
    }
    for (const { posts, total } of await milepostsOf(whole, 3)) {
      // From post to post nothing is known of results shorter than a step.
      if (total > 0 || posts.size > 0) expect(total).toBe(all.length);
      for (const [number, values] of posts) {
        if (number > offset) continue;
        const anchor = { kind: 'after', values } as const;
        expect(await walk({ ...wanted, anchor, offset: offset - number })).toEqual(expected);
      }
    }
  }

  it.each([0, 1])(
    'agree on filters, sorts, windows and cursors (collation %i)',
    async (index) => {
      const schema = `w${index}`;
      const textOrder = orders[index] ?? byCodePoint;
      const now = new Date('2024-03-01T12:00:00Z');
      const requests = fc.array(
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
        fc.asyncProperty(fixtures, requests, async (fixture, given) => {
          const stored = await both.fill(schema, fixture);
          const rowsOf = (table: string): readonly MemoryRow[] => stored.get(table) ?? [];
          for (const { filter, search, sort, nulls, limit, offset } of given) {
            const about: Parameters = {
              sort,
              nulls,
              limit: String(limit),
              ...(filter === undefined ? {} : { filter }),
              ...(search === undefined ? {} : { search }),
            };
            const compare = async (
              place: Parameters,
            ): Promise<{ next: string | null; previous: string | null }[]> => {
              const query = both.check(`${schema}.t`, { ...about, ...place }, now);
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
            const [theirs, ours] = await compare({ offset: String(offset) });
            const whole = both.check(`${schema}.t`, { ...about, limit: '1000' }, now);
            await everyWay(whole, offset, limit);
            // A cursor of either leads both to the same place; only lists are written differently.
            if (sort.split(',').some((term) => term.replace('-', '') === 'l')) continue;
            for (const source of [theirs, ours]) {
              if (source?.next) await compare({ after: source.next });
              if (source?.previous) await compare({ before: source.previous });
            }
          }
        }),
        { numRuns: Number(process.env.EPHOROS_ROUNDS ?? 25), endOnFailure: true },
      );
    },
    120_000,
  );
});
