import type { CheckedGrouping, CheckedScalar } from '../check/index.ts';
import { valueOf } from './cast.ts';
import { scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';

/** The least and the greatest of the values that a grouping by one column is about. */
export function compileRange(grouping: CheckedGrouping, relations: Relations): Statement {
  const { value, rows } = measured(grouping, relations);
  return write(sql`select min(${value}), max(${value})${rows}`);
}

/**
 * How many of the values lie in each of so many bins of equal width from the least to the
 * greatest: rows of a bin's number, from 0, and a count. The greatest value is in the last bin;
 * bins without values are left out.
 */
export function compileHistogram(
  grouping: CheckedGrouping,
  { least, greatest, bins }: { least: string; greatest: string; bins: number },
  relations: Relations,
): Statement {
  const { value, type, rows } = measured(grouping, relations);
  const at = (of: SQL): SQL =>
    type.kind === 'date' || type.kind === 'timestamp'
      ? sql`extract(epoch from ${of})::numeric`
      : sql`${of}::numeric`;
  const low = at(valueOf(least, type));
  const high = at(valueOf(greatest, type));
  // Divided in whole numbers: exactly, with nothing rounded into the next bin.
  const width = sql`nullif(${high} - ${low}, 0)`;
  const part = sql`div((${at(value)} - ${low}) * ${bins}::int4, ${width})`;
  const bin = sql`least(coalesce(${part}, 0), ${bins - 1}::int4)::int4`;
  return write(sql`select ${bin}, count(*)${rows} group by 1 order by 1`);
}

/** The values that have a distance from each other: neither null nor NaN nor infinite. */
function measured(
  grouping: CheckedGrouping,
  relations: Relations,
): { value: SQL; type: CheckedScalar['type']; rows: SQL } {
  const [level] = grouping.levels;
  if (level === undefined) throw new Error('a histogram is of one column');
  const scope = new Scope(grouping.table.name, relations);
  const value = scalar(level.scalar, scope);
  const { type } = level;
  const tests = [...matchTests(grouping, scope), ...finite(value, type)];
  return { value, type, rows: sql`${scope.from()}${whereAll(tests)}` };
}

function finite(value: SQL, type: CheckedScalar['type']): SQL[] {
  if (type.kind === 'integer') return [sql`${value} is not null`];
  return [
    sql`${value} > ${valueOf('-infinity', type)}`,
    sql`${value} < ${valueOf('infinity', type)}`,
  ];
}
