import { checkGrouping, checkQuery } from '@ephoros/core/check';
import { byCodePoint, groupRows, queryRows, type MemoryRow } from '@ephoros/core/memory';
import { parseParameters } from '@ephoros/core/query';
import { compileCount, compileGroups, compileRows } from '@ephoros/core/sql';
import fc from 'fast-check';
import { rowsEncoder } from '../encode/index.ts';
import { layOut, rowCursor } from '../query/index.ts';
import { orders, TwoExecutors, type Parameters } from '../testing/two-executors.ts';
import { filters, sorts, fixtures } from '../testing/fixtures.ts';
import { restrict } from './index.ts';

const rules = {
  t: ['n > 0', "parent.name = 'a' OR parent.rank IS NULL", 's IS NOT NULL AND HAS(child)', '1 = 1'],
  parent: ["name <> 'a'", 'rank >= 1', '1 = 0'],
  child: ['v > 0', "t.parent.name = 'a'"],
} as const;

const pick = (texts: readonly string[]): fc.Arbitrary<string> => fc.constantFrom(...texts);

describe('rows that a caller may see', () => {
  let both: TwoExecutors;

  beforeAll(async () => {
    both = await TwoExecutors.start('ephoros_access_agreement');
  });

  afterAll(() => both.close());

  it('are those of a database that holds no others, in rows, totals, groups and related rows', async () => {
    const now = new Date('2024-03-01T12:00:00Z');
    const requests = fc.array(
      fc.record({
        filter: fc.option(filters, { nil: undefined, freq: 4 }),
        sort: sorts,
        limit: fc.integer({ min: 1, max: 9 }),
        offset: fc.integer({ min: 0, max: 12 }),
        group: pick(['parent.name', 'parent.rank', 's', 'b', 'n + parent.rank']),
        rules: fc.record({
          t: pick(rules.t),
          parent: pick(rules.parent),
          child: pick(rules.child),
        }),
      }),
      { minLength: 6, maxLength: 6 },
    );
    await fc.assert(
      fc.asyncProperty(fixtures, requests, async (fixture, given) => {
        const stored = await both.fill('w0', fixture);
        const textOrder = orders[0] ?? byCodePoint;
        for (const { filter, sort, limit, offset, group, rules: chosen } of given) {
          const catalog = restrict(both.catalog, {
            tables: Object.fromEntries(
              Object.entries(chosen).map(([name, rows]) => [`w0.${name}`, { rows }]),
            ),
          });
          // The oracle: a fixture without the rows that are not to be visible.
          const whole = (table: string): readonly MemoryRow[] => stored.get(table) ?? [];
          const left = new Map(
            Object.entries(chosen).map(([name, rule]) => {
              const table = `w0.${name}`;
              const query = both.check(table, { filter: rule, limit: '1000' }, now);
              const { rows } = queryRows(query, whole(table), { textOrder, rowsOf: whole });
              return [table, rows];
            }),
          );
          const rowsOf = (table: string): readonly MemoryRow[] => left.get(table) ?? [];
          const description = catalog.describe('w0.t');
          if (description === undefined) throw new Error('no table');
          const parameters: Parameters = {
            sort,
            limit: String(limit),
            offset: String(offset),
            columns: 'id,parent_id,parent.name',
            ...(filter === undefined ? {} : { filter }),
          };
          const read = checkQuery(parseParameters(parameters).query, description, {
            tables: catalog.describe,
            now,
          });
          if ('problems' in read) throw new Error(JSON.stringify(read.problems));
          const query = read.checked;
          const answer = await both.database.run(compileRows(query, catalog.locate));
          const window = layOut(query, query, answer, rowCursor(query));
          const counted = await both.database.run(compileCount(query, catalog.locate));
          const ours = queryRows(query, rowsOf('w0.t'), { textOrder, rowsOf });
          expect({
            chosen,
            parameters,
            rows: JSON.parse(rowsEncoder(query)(window.rows).json) as unknown,
            total: Number(counted.rows[0]?.[0]),
          }).toEqual({ chosen, parameters, rows: ours.rows, total: ours.total });

          const levels: Parameters = { group, ...(filter === undefined ? {} : { filter }) };
          const grouped = checkGrouping(parseParameters(levels).query, description, {
            tables: catalog.describe,
            now,
          });
          if ('problems' in grouped) throw new Error(JSON.stringify(grouped.problems));
          const lines = await both.database.run(compileGroups(grouped.checked, catalog.locate));
          const memory = groupRows(grouped.checked, rowsOf('w0.t'), { textOrder, rowsOf });
          expect({ chosen, levels, counts: lines.rows.map(([, count]) => Number(count)) }).toEqual({
            chosen,
            levels,
            counts: memory.groups.map(({ count }) => count),
          });
        }
      }),
      { numRuns: Number(process.env.RUNS ?? 12) },
    );
  });

  it('are all that a condition is computed of that can fail', async () => {
    await both.fill('w0', {
      t: [
        { n: 1, f: 1 },
        { n: 2, f: 1e300 },
      ],
      parent: [],
      child: [],
    });
    const catalog = restrict(both.catalog, { tables: { 'w0.t': { rows: 'n = 1' } } });
    const description = catalog.describe('w0.t');
    if (description === undefined) throw new Error('no table');
    const request = async (filter: string): Promise<number> => {
      const read = checkQuery(parseParameters({ filter }).query, description);
      if ('problems' in read) throw new Error(JSON.stringify(read.problems));
      const { rows } = await both.database.run(compileCount(read.checked, catalog.locate));
      return Number(rows[0]?.[0]);
    };
    // Of the row that is not to be visible this would overflow, and so tell that it is there.
    expect(await request('f * 1e300 > 0 AND n < 100')).toBe(1);
    const levels = parseParameters({ group: 'f * 1e300,n', path: '[1e300]' }).query;
    const grouped = checkGrouping(levels, description);
    if ('problems' in grouped) throw new Error(JSON.stringify(grouped.problems));
    const { rows } = await both.database.run(compileGroups(grouped.checked, catalog.locate));
    expect(rows.map(([value]) => value)).toEqual(['1']);
  });
});
