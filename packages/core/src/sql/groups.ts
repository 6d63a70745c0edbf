import type { CheckedAggregate, CheckedGrouping, CheckedLevel } from '../check/index.ts';
import { stepsOf, type AggregateSteps } from './aggregate.ts';
import { valueOf } from './cast.ts';
import { scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import { behindAnywhere } from './position.ts';
import { Scope, type ColumnNames, type Relations } from './scope.ts';
import { matchTests, patternOf, whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';
import { termsAlong } from './walk-order.ts';
import { order, positions, valuesBeside } from './walk.ts';

/**
 * The lines of one level of a grouping in its window, and one more if there is one. Each holds
 * the value, the number of rows, the number of lines below (null at the last level), the
 * aggregates, those asked for and then the hidden ones; and at last, the same in each, how many
 * lines the level has. Before a cursor, and before the end, the lines come in reverse.
 */
export function compileGroups(grouping: CheckedGrouping, relations: Relations): Statement {
  const { limit, offset, containing } = grouping;
  const all = [...grouping.aggregates, ...grouping.hidden];
  const scope = new Scope(grouping.table.name, relations);
  const steps = all.map((aggregate) => stepsOf(aggregate, scope));
  const grouped = groups(grouping, steps, scope);
  const finished = steps.map(({ value }, index) => {
    const whole = wholeOf(grouping, all[index], index, relations);
    const names = partNames(index, steps[index]);
    return sql`${value(names, { rows: sql`n`, sum: whole })} as ${lineName(`a${index}`)}`;
  });
  const columns = [sql`k as value`, sql`n as count`, sql`b as below`, ...finished];
  const found = containing === undefined ? [] : [sql`k::text ilike ${patternOf(containing)}`];
  const lines = sql`select ${sql.join(columns, sql`, `)}, count(*) over () as lines from (${grouped}) g${whereAll(found)}`;
  const names: ColumnNames = { column: ({ own }) => lineName(own) };
  const values = valuesBeside(grouping);
  const terms = termsAlong(grouping);
  const beyond = values === undefined ? [] : [behindAnywhere(positions(terms, values), names)];
  return write(
    sql`select * from (${lines}) l${whereAll(beyond)}${order(terms, names)} limit ${limit + 1} offset ${offset}`,
  );
}

/**
 * The groups of a level, each as `k`, `n`, `b` and the parts of the aggregates. Where the lines
 * below are to be counted, the rows are grouped by both levels at once and these groups again:
 * a fraction of the work of counting distinct values.
 */
function groups(grouping: CheckedGrouping, steps: readonly AggregateSteps[], scope: Scope): SQL {
  const { levels, path } = grouping;
  const [level, next] = levels.slice(path.length);
  const key = level === undefined ? sql`null::text` : scalar(level.scalar, scope);
  const below = next && scalar(next.scalar, scope);
  const parts = steps.flatMap((one, index) =>
    one.parts.map((part, place) => sql`${part} as ${partName(index, place)}`),
  );
  const tests = [...matchTests(grouping, scope), ...pathTests(grouping, scope)];
  const from = (columns: readonly SQL[]): SQL =>
    sql`select ${sql.join(columns, sql`, `)}${scope.from()}${whereAll(tests)}`;
  const merges = steps.flatMap(({ merge }) => merge ?? []);
  if (below === undefined) {
    const one = level === undefined ? sql`` : sql` group by 1`;
    return sql`${from([sql`${key} as k`, sql`count(*) as n`, sql`null::int8 as b`, ...parts])}${one}`;
  }
  if (merges.length < steps.length) {
    const counted = sql`count(distinct ${below}) + max(case when ${below} is null then 1 else 0 end) as b`;
    return sql`${from([sql`${key} as k`, sql`count(*) as n`, counted, ...parts])} group by 1`;
  }
  const finest = sql`${from([sql`${key} as k`, sql`${below} as m`, sql`count(*) as n`, ...parts])} group by 1, 2`;
  const merged = merges.flatMap((merge, index) =>
    merge(partNames(index, steps[index])).map(
      (part, place) => sql`${part} as ${partName(index, place)}`,
    ),
  );
  const columns = [sql`k`, sql`sum(n)::int8 as n`, sql`count(*) as b`, ...merged];
  return sql`select ${sql.join(columns, sql`, `)} from (${finest}) f group by k`;
}

function pathTests({ levels, path }: CheckedGrouping, scope: Scope): SQL[] {
  return path.flatMap((value, index) => {
    const level = levels[index];
    return level === undefined ? [] : [levelTest(level, value, scope)];
  });
}

function levelTest({ scalar: of }: CheckedLevel, value: string | null, scope: Scope): SQL {
  const name = scalar(of, scope);
  return value === null ? sql`${name} is null` : sql`${name} = ${valueOf(value, of.type)}`;
}

/** Sums over the whole result: over the lines of the outermost level, else over the rows anew. */
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

function partNames(index: number, steps: AggregateSteps | undefined): readonly SQL[] {
  return (steps?.parts ?? []).map((_part, place) => partName(index, place));
}

function partName(index: number, place: number): SQL {
  return sql.raw(`p${index}_${place}`);
}

/** The names of a line's columns are this program's own. */
function lineName(own: string): SQL {
  return sql.identifier(own);
}
