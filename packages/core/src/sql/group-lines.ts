import type { CheckedGroupLines } from '../check/index.ts';
import { stepsOf } from './aggregate.ts';
import { sql, type SQL } from './fragment.ts';
import { order } from './keyset.ts';
import { levelKey } from './level.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';

/** All groups of a grouping in their order: their values of every level, the aggregates, those that they are sorted by. */
export function groupLines(lines: CheckedGroupLines, relations: Relations): SQL {
  const { levels, aggregates, hidden, sort } = lines;
  const scope = new Scope(lines.table.name, relations);
  const steps = [...aggregates, ...hidden].map((one) => stepsOf(one, scope));
  const keys = levels.map((level, index) => sql`${levelKey(level, scope)} as ${key(index)}`);
  const parts = steps.flatMap((one, index) =>
    one.parts.map((part, place) => sql`${part} as ${partName(index, place)}`),
  );
  const selected = sql.join([...keys, sql`count(*) as n`, ...parts], sql`, `);
  const tests = whereAll(matchTests(lines, scope));
  const ordinals = sql.raw(levels.map((_level, index) => index + 1).join(', '));
  const grouped = sql`select ${selected}${scope.from()}${tests} group by ${ordinals}`;
  const made = steps.map(({ parts: own, value }, index) => {
    const names = own.map((_part, place) => partName(index, place));
    const whole = { rows: sql`n`, sum: (of: SQL) => sql`sum(${of}) over ()` };
    return sql`${value(names, whole)} as ${sql.identifier(`a${index}`)}`;
  });
  const columns = sql.join([...levels.map((_level, index) => key(index)), ...made], sql`, `);
  const all = sql`select ${columns} from (${grouped}) g`;
  return sql`select * from (${all}) l${order(sort, { column: ({ own }) => sql.identifier(own) })}`;
}

function key(index: number): SQL {
  return sql.identifier(`k${index}`);
}

/** The names of a line's columns are this program's own. */
function partName(index: number, place: number): SQL {
  return sql.raw(`p${index}_${place}`);
}
