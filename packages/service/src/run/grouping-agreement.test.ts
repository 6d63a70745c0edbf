import { printAnswer } from '@ephoros/core/answer';
import {
  checkAggregates,
  checkGrouping,
  checkValuesOf,
  type CheckedGrouping,
} from '@ephoros/core/check';
import {
  byCodePoint,
  groupRows,
  histogramOf,
  queryRows,
  type MemoryGroup,
  type MemoryRow,
} from '@ephoros/core/memory';
import {
  canCountValues,
  compileCount,
  compileGroups,
  compileHistogram,
  compileRange,
} from '@ephoros/core/sql';
import type { ResultColumn } from '@ephoros/core/schema';
import fc from 'fast-check';
import { valueEncoder } from '../encode/index.ts';
import { Engine, TableAnswers } from '../engine/index.ts';
import { conditionOfLine } from '../testing/service.ts';
import { orders, TwoExecutors, type Parameters } from '../testing/two-executors.ts';
import { filters, fixtures } from '../testing/fixtures.ts';
import { Tally, layOut, lineCursor } from '../query/index.ts';
import { WaitBudget } from './wait-budget.ts';

jest.setTimeout(60_000 + Number(process.env.EPHOROS_ROUNDS ?? 0) * 1_500);

const levels = [
  'n',
  'ch',
  'dm',
  'de',
  'big',
  'd',
  's',
  'b',
  'e',
  'day',
  'ts',
  'local',
  'parent_id',
  'parent.name',
  'parent.rank',
  'initial(s)',
  'initial(parent.name)',
  'bin(n, 3)',
  'bin(d, 2.5)',
  'bin(d, 0.01)',
  "bin(ts, 'P1M')",
  "bin(ts, 'P1Y')",
  "bin(day, 'P1W')",
  "bin(local, 'P3M')",
  "bin(ts, 'P1D', 'Asia/Kolkata')",
  "bin(ts, 'PT1H', 'America/New_York')",
  "bin(ts, 'PT1H')",
  'year(ts)',
  "year(ts, 'Pacific/Auckland')",
  'quarter(day)',
  "month(ts, 'Europe/Paris')",
  'week(local)',
  "day(ts, 'America/Los_Angeles')",
  "hour(ts, 'Australia/Lord_Howe')",
  "weekday(ts, 'Asia/Tokyo')",
  'n + 1',
  'length(s)',
];

const aggregates = [
  'count()',
  'count(d)',
  'distinct(s)',
  'distinct(n)',
  'sum(n)',
  'sum(big)',
  'sum(d)',
  'sum(n * 2)',
  'avg(n)',
  'avg(d)',
  'min(s)',
  'max(parent.name)',
  'min(e)',
  'max(dm)',
  'distinct(ci)',
  'distinct(ch)',
  'percentile(n, 7)',
  'max(ts)',
  'min(f)',
  'max(r)',
  'median(n)',
  'median(d)',
  'median(day)',
  'percentile(d, 90)',
  'percentile(ts, 10)',
  'share()',
  'share(d)',
  'count(n > 2)',
  "count(SELECTED('1', '4', '5'))",
  'count(d, n BETWEEN 1 AND 4)',
  'share(n <> 3)',
  "share(d, s LIKE '%a%')",
  "sum(n, s IS NOT NULL AND parent.name <> 'x')",
  'sum(d, n / 2 > 1)',
  'avg(n, NOT b = TRUE)',
  'distinct(s, parent.rank > 0)',
  'min(s, n IN (1, 2, 3))',
  'max(ts, d IS NULL OR n < 3)',
  'median(d, n >= 2)',
  "percentile(n, 60, s < 'm')",
];

const pick = <Value>(values: readonly Value[]): fc.Arbitrary<Value> => fc.constantFrom(...values);

const requests = fc.array(
  fc.record({
    group: fc.uniqueArray(pick(levels), { minLength: 1, maxLength: 3 }),
    aggregate: fc.uniqueArray(pick(aggregates), { maxLength: 3 }),
    // Terms that are no level here, but an aggregate.
    sort: fc.uniqueArray(fc.tuple(pick(aggregates), fc.boolean()), {
      maxLength: 2,
      selector: ([name]) => name,
    }),
    byValue: pick(['', '-']),
    filter: fc.option(filters, { nil: undefined, freq: 3 }),
    nulls: pick(['first', 'last']),
    limit: fc.integer({ min: 1, max: 6 }),
    offset: fc.integer({ min: 0, max: 8 }),
    line: fc.nat(),
  }),
  { minLength: 8, maxLength: 8 },
);

interface Answered {
  readonly groups: readonly MemoryGroup[];
  readonly total: number | undefined;
  readonly next: string | null;
  readonly previous: string | null;
}

function decoded(grouping: CheckedGrouping, row: readonly (string | null)[]): MemoryGroup {
  const read = (
    text: string | null | undefined,
    { type, encoding }: Pick<ResultColumn, 'type' | 'encoding'>,
  ): unknown =>
    text === null || text === undefined
      ? null
      : (JSON.parse(valueEncoder(type, encoding)(text)) as unknown);
  const level = grouping.levels[grouping.path.length];
  const [value, count, below, ...made] = row;
  return {
    value: level === undefined ? null : read(value, level),
    count: Number(count),
    below: below === null || below === undefined ? null : Number(below),
    aggregates: Object.fromEntries(
      grouping.aggregates.map((one, index) => [one.name, read(made[index], one)]),
    ),
  };
}

/** Equal values of unlike spelling (1.0 and 1.00, -0 and 0) may each stand for their group. */
function comparable({ value, count, below, aggregates: made }: MemoryGroup): object {
  const plain = (one: unknown): unknown =>
    typeof one === 'string' && /^-?\d+\.\d*$/.test(one) ? one.replace(/\.?0+$/, '') : one;
  return {
    value: plain(value),
    count,
    below,
    made: Object.entries(made).map(([name, one]) => [name, plain(one)]),
  };
}

describe('groups in PostgreSQL and in memory', () => {
  let both: TwoExecutors;
  let engine: Engine;
  const now = new Date('2024-03-01T12:00:00Z');

  beforeAll(async () => {
    both = await TwoExecutors.start('ephoros_groups');
    engine = new Engine({ database: both.url, connections: 3, countingTime: 0 });
  });

  afterAll(async () => {
    await engine.close();
    await both.close();
  });

  function check(table: string, parameters: Parameters): CheckedGrouping {
    return both.checkWith(table, parameters, (query, description) =>
      checkGrouping(query, description, { tables: both.catalog.describe, now }),
    );
  }

  /** The lines by the statement alone, encoded as answers are. */
  async function inPostgres(grouping: CheckedGrouping): Promise<Answered> {
    const { locate } = both.catalog;
    const answer = await both.database.run(compileGroups(grouping, locate));
    if (canCountValues(grouping)) {
      // Medians by the counts of values are the same.
      const counted = { ...grouping, byValues: true };
      const decode = (row: (typeof answer.rows)[number]): unknown => decoded(grouping, row);
      const { rows: theirs } = await both.database.run(compileGroups(counted, locate));
      expect(theirs.map(decode)).toEqual(answer.rows.map(decode));
    }
    const { rows, next, previous } = layOut(grouping, grouping, answer, lineCursor(grouping));
    const total = answer.rows[0]?.at(-1);
    return {
      groups: rows.map((row) => decoded(grouping, row)),
      total: total === undefined || total === null ? undefined : Number(total),
      next,
      previous,
    };
  }

  /** The same on the service's whole way: by its cache of levels, with the filters of the lines. */
  async function fromService(
    table: string,
    parameters: Parameters,
  ): Promise<{
    groups: readonly (MemoryGroup & { filter: string | null })[];
    filter: string | null;
    next: string | null;
  }> {
    // The rows are others than they were when something was remembered.
    engine.results.forget();
    const context = {
      catalog: both.catalog,
      signal: new AbortController().signal,
      tally: new Tally(),
      budget: new WaitBudget(60_000),
    };
    const answers = new TableAnswers(table, engine, context);
    const answer = await answers.groups({ values: parameters, problems: [] });
    return JSON.parse(printAnswer(answer)) as Awaited<ReturnType<typeof fromService>>;
  }

  it.each([0, 1])(
    'agree on values, counts, aggregates, order, windows and cursors (collation %i)',
    async (index) => {
      const textOrder = orders[index] ?? byCodePoint;
      const table = `w${index}.t`;
      await fc.assert(
        fc.asyncProperty(fixtures, requests, async (fixture, given) => {
          const stored = await both.fill(`w${index}`, fixture);
          const rowsOf = (name: string): readonly MemoryRow[] => stored.get(name) ?? [];
          const rows = rowsOf(table);
          const options = { textOrder, rowsOf };
          const compare = async (parameters: Parameters): Promise<Answered> => {
            const grouping = check(table, parameters);
            const ours = groupRows(grouping, rows, options);
            const theirs = await inPostgres(grouping);
            const facts = ({ groups, next, previous }: Answered): object => ({
              parameters,
              groups: groups.map(comparable),
              ends: [next === null, previous === null],
            });
            expect(facts(ours)).toEqual(facts(theirs));
            if (theirs.total !== undefined && parameters.after === undefined) {
              expect(theirs.total).toBe(ours.total);
            }
            // Taken together by what they refer to first, the rows make the same groups.
            const levelsByReference = grouping.levels.map((one) => ({ ...one, repeats: true }));
            const byReference = await inPostgres({ ...grouping, levels: levelsByReference });
            expect(facts(byReference)).toEqual(facts(theirs));
            const served = await fromService(table, parameters);
            expect(served.groups.map(comparable)).toEqual(ours.groups.map(comparable));
            expect(served.next === null).toBe(ours.next === null);
            for (const { filter: own, count, value } of served.groups) {
              if (own === null) continue;
              const filter = conditionOfLine(served, { filter: own });
              const selecting = both.check(table, { filter, limit: '1000' }, now);
              const counted = await both.database.run(compileCount(selecting, both.catalog.locate));
              expect({ filter, value, count: Number(counted.rows[0]?.[0]) }).toEqual({
                filter,
                value,
                count,
              });
              expect(queryRows(selecting, rows, options).total).toBe(count);
            }
            return theirs;
          };
          for (const { group, aggregate, sort, byValue, filter, nulls, ...place } of given) {
            const [first = 'n', second] = group;
            const terms = sort.map(([name, down]) => (down ? `-${name}` : name));
            const about: Parameters = {
              group: group.join(','),
              aggregate: aggregate.join(','),
              sort: [...terms, byValue + first].join(','),
              nulls,
              limit: String(place.limit),
              ...(filter === undefined ? {} : { filter }),
            };
            await compare({ ...about, offset: String(place.offset) });
            const beginning = await compare(about);
            if (beginning.next !== null) await compare({ ...about, after: beginning.next });
            const further = beginning.next && (await compare({ ...about, after: beginning.next }));
            if (further && further.previous !== null) {
              await compare({ ...about, before: further.previous });
            }
            const line = beginning.groups[place.line % Math.max(1, beginning.groups.length)];
            if (line === undefined || second === undefined) continue;
            const below = await compare({ ...about, path: JSON.stringify([line.value]) });
            // What a line says lies below it, lies there.
            if (below.total !== undefined) expect(below.total).toBe(line.below);
          }
        }),
        { numRuns: Number(process.env.EPHOROS_ROUNDS ?? 12), endOnFailure: true },
      );
    },
  );

  it('agree on aggregates of the whole result', async () => {
    await fc.assert(
      fc.asyncProperty(
        fixtures,
        fc.option(filters, { nil: undefined }),
        async (fixture, filter) => {
          const saved = await both.fill('w0', fixture);
          const rowsOf = (name: string): readonly MemoryRow[] => saved.get(name) ?? [];
          const parameters: Parameters = {
            aggregate: aggregates.slice(0, 20).join(','),
            ...(filter === undefined ? {} : { filter }),
          };
          const grouping = both.checkWith('w0.t', parameters, (query, description) =>
            checkAggregates(query, description, { tables: both.catalog.describe, now }),
          );
          const ours = groupRows(grouping, rowsOf('w0.t'), { rowsOf });
          const theirs = await inPostgres(grouping);
          expect(ours.groups.map(comparable)).toEqual(theirs.groups.map(comparable));
        },
      ),
      { numRuns: Number(process.env.EPHOROS_ROUNDS ?? 20), endOnFailure: true },
    );
  }, 120_000);

  it('agree on the values of a column and their histogram', async () => {
    const wanted = fc.record({
      column: pick(['n', 'd', 'big', 'f', 'r', 'day', 'ts', 'local', 'parent.rank']),
      bins: fc.integer({ min: 1, max: 12 }),
      containing: fc.option(pick(['1', '0', '2024', 'a']), { nil: undefined }),
      filter: pick(['n > 0', 'n > 0 AND d < 5', 'e IS NOT NULL', undefined]),
    });
    await fc.assert(
      fc.asyncProperty(fixtures, fc.array(wanted, { minLength: 6 }), async (fixture, all) => {
        const kept = await both.fill('w0', fixture);
        const rowsOf = (name: string): readonly MemoryRow[] => kept.get(name) ?? [];
        for (const { column, bins, containing, filter } of all) {
          const parameters: Parameters = {
            limit: '1000',
            ...(filter === undefined ? {} : { filter }),
          };
          const { grouping } = both.checkWith('w0.t', parameters, (query, description) =>
            checkValuesOf(query, { column, containing, bins }, description, {
              tables: both.catalog.describe,
              now,
            }),
          );
          const about = { column, bins, containing, filter };
          const ours = groupRows(grouping, rowsOf('w0.t'), { rowsOf });
          const theirs = await inPostgres(grouping);
          expect({ about, groups: ours.groups.map(comparable) }).toEqual({
            about,
            groups: theirs.groups.map(comparable),
          });
          const { locate } = both.catalog;
          const range = await both.database.run(compileRange(grouping, locate));
          const [[least = null, greatest = null] = []] = range.rows;
          const inMemory = histogramOf(grouping, bins, rowsOf('w0.t'), { rowsOf });
          if (least === null || greatest === null) {
            expect(inMemory).toEqual([]);
            continue;
          }
          const statement = compileHistogram(grouping, { least, greatest, bins }, locate);
          const { rows } = await both.database.run(statement);
          expect({ about, bins: inMemory }).toEqual({
            about,
            bins: rows.map(([bin, count]) => ({ bin: Number(bin), count: Number(count) })),
          });
        }
      }),
      { numRuns: Number(process.env.EPHOROS_ROUNDS ?? 12), endOnFailure: true },
    );
  }, 120_000);
});
