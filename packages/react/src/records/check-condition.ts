import { checkQuery } from '@ephoros/core/check';
import type { Expression } from '@ephoros/core/expression';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { namesOf } from '@ephoros/core/view';

/**
 * A condition, checked before it is requested: a related column that is known is checked as one of the
 * table's own. Undefined where only the service can tell.
 */
export function checkCondition(
  filter: Expression,
  table: TableDescription,
  column: (name: string) => ColumnDescription | undefined,
): ReturnType<typeof checkQuery> | undefined {
  const own = new Set(table.columns.map(({ name }) => name));
  const others = [...new Set(namesOf(filter))].filter(
    (name) => !own.has(name) && name.includes('.'),
  );
  const related = others.flatMap((name) => column(name) ?? []);
  if (related.length < others.length) return undefined;
  return checkQuery({ filter }, { ...table, columns: [...table.columns, ...related] });
}
