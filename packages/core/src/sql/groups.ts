import type { CheckedAggregate, CheckedGrouping, CheckedLevel } from '../check/index.ts';
import {
  isAtPlace,
  partName,
  partNames,
  partsOf,
  stepsOf,
  type AggregateSteps,
} from './aggregate.ts';
import { ByReference, isReferred } from './by-reference.ts';
import { sql, type SQL } from './fragment.ts';
import { levelKey, levelTest } from './level.ts';
import { behindAnywhere } from './position.ts';
import { scalarMayRaise } from './raising.ts';
import type { ColumnNames } from './column-names.ts';
import { plainValues } from './plain-values.ts';
import { Scope, type Relations } from './scope.ts';
import { patternOf } from './search-test.ts';
import { matchTests, whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';
import { termsAlong } from './keyset-order.ts';
import { order, positions, anchorValues } from './keyset.ts';

/**
 * The lines of one level of a grouping in its window, and one more if there is one. Each holds
 * the value, the number of rows, the number of lines below (null at the last level), the
 * aggregates, those requested and then the hidden ones; and at last, the same in each, how many
 * lines the level has. Before a cursor, and before the end, the lines come in reverse.
 */
export function compileGroups(grouping: CheckedGrouping, relations: Relations): Statement {
  const { limit, offset, containing } = grouping;
  const names: ColumnNames = { column: ({ own }) => lineName(own) };
  const values = anchorValues(grouping);
  const terms = termsAlong(grouping);
  const beyond = values === undefined ? [] : [behindAnywhere(positions(terms, values), names)];
  const inWindow = (lines: SQL): Statement =>
    write(
      sql`select * from (${lines}) l${whereAll(beyond)}${order(terms, names)} limit ${limit + 1} offset ${offset}`,
    );
  if (grouping.uncounted === true) {
    const none = sql`null::int8`;
    return inWindow(
      sql`select k as value, ${none} as count, ${none} as below, ${none} as lines from (${plainValues(grouping, relations)}) g`,
    );
  }
  const all = [...grouping.aggregates, ...grouping.hidden];
  const scope = new Scope(grouping.table.name, relations);
  const steps = all.map((aggregate) => stepsOf(aggregate, scope));
  const grouped = groups(grouping, steps, scope, relations);
  const finished = steps.map(({ value }, index) => {
    const whole = wholeOf(grouping, all[index], index, relations);
    const names = partNames(index, steps[index]);
    return sql`${value(names, { rows: sql`n`, sum: whole })} as ${lineName(`a${index}`)}`;
  });
  const columns = [sql`k as value`, sql`n as count`, sql`b as below`, ...finished];
  const found = containing === undefined ? [] : [sql`k::text ilike ${patternOf(containing)}`];
  return inWindow(
    sql`select ${sql.join(columns, sql`, `)}, count(*) over () as lines from (${grouped}) g${whereAll(found)}`,
  );
}

/** The rows of a level's groups: a SELECT of some columns, composed when all are known. */
type Rows = (columns: () => readonly SQL[]) => SQL;

/** The groups of a level, each as `k`, `n`, `b` and the parts of the aggregates. */
function groups(
  grouping: CheckedGrouping,
  steps: readonly AggregateSteps[],
  scope: Scope,
  relations: Relations,
): SQL {
  const { levels, path } = grouping;
  const [level, next] = levels.slice(path.length);
  const rows: Rows = (columns) => {
    const selected = sql.join(columns(), sql`, `);
    const tests = [...matchTests(grouping, scope), ...pathTests(grouping, scope)];
    return sql`select ${selected}${scope.from()}${whereAll(tests)}`;
  };
  const parts = partsOf(steps);
  if (level === undefined) {
    if (grouping.byValues === true && canCountValues(grouping)) {
      return ofCountedValues(grouping, steps, rows, scope);
    }
    return rows(() => [sql`null::text as k`, rowCount, sql`null::int8 as b`, ...parts]);
  }
  const merges = mergesOf(steps);
  if (merges === undefined) {
    return grouping.byValues === true && canCountValues(grouping)
      ? ofCountedValues(grouping, steps, rows, scope)
      : inOnePass(level, next, parts, rows, scope);
  }
  const levelsRequested = next === undefined ? [level] : [level, next];
  const finest = finestGroups(levelsRequested, { parts, merges }, rows, scope, (inner, first) =>
    inner.over(first, grouping, relations),
  );
  if (next === undefined) {
    const names = steps.flatMap((one, index) => partNames(index, one));
    return sql`select ${sql.join([sql`k`, sql`n`, sql`null::int8 as b`, ...names], sql`, `)} from (${finest}) f`;
  }
  const columns = [sql`k`, mergedCount, sql`count(*) as b`, ...merges];
  return sql`select ${sql.join(columns, sql`, `)} from (${finest}) f group by k`;
}

const rowCount = sql`count(*) as n`;
const mergedCount = sql`sum(n)::int8 as n`;

/** Where aggregates need the rows themselves, the lines below are counted as distinct values. */
function inOnePass(
  level: CheckedLevel,
  next: CheckedLevel | undefined,
  parts: readonly SQL[],
  rows: Rows,
  scope: Scope,
): SQL {
  const key = levelKey(level, scope);
  const lines = next && levelKey(next, scope);
  const below =
    lines === undefined
      ? sql`null::int8`
      : sql`count(distinct ${lines}) + max(case when ${lines} is null then 1 else 0 end)`;
  return sql`${rows(() => [sql`${key} as k`, rowCount, sql`${below} as b`, ...parts])} group by 1`;
}

/**
 * The groups by a level and the next one at once, as `k`, `m`, `n` and the parts: grouped once
 * more they tell how many lines lie below, for a fraction of the work of counting distinct values.
 */
function finestGroups(
  levels: readonly CheckedLevel[],
  { parts, merges }: { parts: readonly SQL[]; merges: readonly SQL[] },
  rows: Rows,
  scope: Scope,
  over: (inner: ByReference, first: SQL) => Scope,
): SQL {
  const keys = (of: (level: CheckedLevel) => SQL): SQL[] =>
    levels.map((level, index) => sql`${of(level)} as ${index === 0 ? sql`k` : sql`m`}`);
  const by = levels.length === 1 ? sql` group by 1` : sql` group by 1, 2`;
  if (!levels.some(isReferred)) {
    return sql`${rows(() => [...keys((one) => levelKey(one, scope)), rowCount, ...parts])}${by}`;
  }
  const inner = new ByReference(levels, scope);
  const first = rows(() => [...inner.columns, rowCount, ...parts]);
  const outer = over(inner, sql`(${first} group by ${inner.ordinals})`);
  const selected = [...keys((one) => inner.key(one, outer)), mergedCount, ...merges];
  return sql`select ${sql.join(selected, sql`, `)}${outer.from()}${by}`;
}

/**
 * Whether medians and percentiles of a grouping can be read off the counts of their values: all of the same
 * values, and whatever else is made can be put together of parts.
 */
export function canCountValues({ aggregates, hidden }: CheckedGrouping): boolean {
  const all = [...aggregates, ...hidden];
  const ranked = all.filter(({ kind }) => kind === 'median' || kind === 'percentile');
  const [first] = ranked;
  const same = ranked.every(
    ({ argument, only }) =>
      only === undefined && JSON.stringify(argument) === JSON.stringify(first?.argument),
  );
  return first !== undefined && same && all.every(({ kind }) => kind !== 'distinct');
}

/**
 * The groups of a level where some aggregates are a value at a place in the order: equal values are counted first, and
 * only those counts put into order. Many times quicker than a sort of all rows where values repeat.
 */
function ofCountedValues(
  { levels, path }: CheckedGrouping,
  steps: readonly AggregateSteps[],
  rows: Rows,
  scope: Scope,
): SQL {
  const [level, next] = levels.slice(path.length);
  const [ranked] = steps.flatMap((one) => one.ranked ?? []);
  if (ranked === undefined) throw new Error('nothing has a place in an order');
  const others = steps.map((one) => (one.ranked === undefined ? one : { ...one, parts: [] }));
  const key = level === undefined ? sql`null::text` : levelKey(level, scope);
  const keys = [
    sql`${key} as k`,
    ...(next === undefined ? [] : [sql`${levelKey(next, scope)} as m`]),
    sql`${ranked.of} as v`,
  ];
  const by = sql.raw(keys.map((_key, index) => index + 1).join(', '));
  const counted = sql`${rows(() => [...keys, rowCount, ...partsOf(others)])} group by ${by}`;
  const valued = sql`sum(n) filter (where v is not null) over`;
  const ordered = sql`select f.*, ${valued} (partition by k order by v) as upto, ${valued} (partition by k) as valued from (${counted}) f`;
  const below =
    next === undefined
      ? sql`null::int8`
      : sql`count(distinct m) + max(case when m is null then 1 else 0 end)`;
  const made = steps.flatMap((one, index) => {
    const values =
      one.ranked === undefined
        ? (one.merge?.(partNames(index, one)) ?? [])
        : one.ranked.places.map(
            (place) =>
              sql`(array_agg(v order by v) filter (where v is not null and ${isAtPlace(place, sql`upto`, sql`valued`)}))[1]`,
          );
    return values.map((value, place) => sql`${value} as ${partName(index, place)}`);
  });
  const total = level === undefined ? sql`coalesce(sum(n), 0)::int8 as n` : mergedCount;
  const selected = sql.join([sql`k`, total, sql`${below} as b`, ...made], sql`, `);
  if (level === undefined) {
    return sql`select ${sql.join([sql`null::text as k`, total, sql`${below} as b`, ...made], sql`, `)} from (${ordered}) w`;
  }
  return sql`select ${selected} from (${ordered}) w group by k`;
}

/** The parts put together again; undefined where some cannot be. */
function mergesOf(steps: readonly AggregateSteps[]): SQL[] | undefined {
  const merged = steps.map(({ merge }, index) =>
    merge?.(partNames(index, steps[index])).map(
      (part, place) => sql`${part} as ${partName(index, place)}`,
    ),
  );
  const sound = merged.filter((one) => one !== undefined);
  return sound.length < merged.length ? undefined : sound.flat();
}

function pathTests({ levels, path }: CheckedGrouping, scope: Scope): SQL[] {
  return path.flatMap((value, index) => {
    const level = levels[index];
    if (level === undefined) return [];
    if (scalarMayRaise(level.scalar)) scope.fence();
    return [levelTest(level, value, scope)];
  });
}

/** Sums over the whole result: over the lines of the outermost level, else over the rows again. */
function wholeOf(
  grouping: CheckedGrouping,
  aggregate: CheckedAggregate | undefined,
  index: number,
  relations: Relations,
): (of: SQL) => SQL {
  if (grouping.path.length === 0) return (of) => sql`sum(${of}) over ()`;
  return () => {
    const scope = new Scope(grouping.table.name, relations);
    const [part = sql`count(*)`] = aggregate === undefined ? [] : stepsOf(aggregate, scope).parts;
    const tests = whereAll(matchTests(grouping, scope));
    return sql`(select ${part} as ${partName(index, 0)}${scope.from()}${tests})`;
  };
}

/** The names of a line's columns are this program's own. */
function lineName(own: string): SQL {
  return sql.identifier(own);
}
