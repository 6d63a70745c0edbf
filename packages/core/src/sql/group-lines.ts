import type { CheckedGroupLines } from '../check/index.ts';
import { partNames, partsOf, stepsOf } from './aggregate.ts';
import { sql, type SQL } from './fragment.ts';
import { orderTerms } from './keyset.ts';
import { levelKey } from './level.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';

/**
 * All groups of a grouping in their order: their values of every level, the aggregates, how many levels lie above, and
 * the aggregates that they are sorted by.
 */
export function groupLines(lines: CheckedGroupLines, relations: Relations): SQL {
  const { levels, sort, folded = false } = lines;
  const last = levels.length - 1;
  // The deepest first, whose types hold for the columns that the others leave empty.
  const depths = levels.map((_level, index) => last - index).filter((at) => folded || at === last);
  const all = sql.join(
    depths.map((depth) => linesAt(depth, lines, relations)),
    sql` union all `,
  );
  const names = { column: ({ own }: { readonly own: string }) => sql.identifier(own) };
  const terms = sort.flatMap((term, index) => [
    orderTerms([term], names),
    // A group comes before what lies in it.
    ...(folded && index < last ? [sql`d > ${sql.raw(String(index))}`] : []),
  ]);
  return sql`select * from (${all}) l order by ${sql.join(terms, sql`, `)}`;
}

/** The groups of one level, whatever lies above them. */
function linesAt(depth: number, lines: CheckedGroupLines, relations: Relations): SQL {
  const { levels, aggregates, hidden } = lines;
  const scope = new Scope(lines.table.name, relations);
  const steps = [...aggregates, ...hidden].map((one) => stepsOf(one, scope));
  const own = levels.slice(0, depth + 1);
  const keys = own.map((level, index) => sql`${levelKey(level, scope)} as ${key(index)}`);
  const selected = sql.join([...keys, sql`count(*) as n`, ...partsOf(steps)], sql`, `);
  const tests = whereAll(matchTests(lines, scope));
  const ordinals = sql.raw(own.map((_level, index) => index + 1).join(', '));
  const grouped = sql`select ${selected}${scope.from()}${tests} group by ${ordinals}`;
  const whole = { rows: sql`n`, sum: (of: SQL) => sql`sum(${of}) over ()` };
  const made = steps.map(
    (one, index) =>
      sql`${one.value(partNames(index, one), whole)} as ${sql.identifier(`a${index}`)}`,
  );
  const values = levels.map((_level, index) =>
    index <= depth ? key(index) : sql`null as ${key(index)}`,
  );
  const columns = [
    ...values,
    ...made.slice(0, aggregates.length),
    sql`${sql.raw(String(depth))} as d`,
    ...made.slice(aggregates.length),
  ];
  return sql`select ${sql.join(columns, sql`, `)} from (${grouped}) g`;
}

function key(index: number): SQL {
  return sql.identifier(`k${index}`);
}
