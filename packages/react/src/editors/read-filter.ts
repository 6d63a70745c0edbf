import { checkQuery } from '@ephoros/core/check';
import { parseExpression, printExpression, type Expression } from '@ephoros/core/expression';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { namesOf } from '@ephoros/core/view';

/** Reads a condition from its text, or says what is wrong with it. */
export const readFilter = parseExpression;

/**
 * What is wrong with a condition before it is asked: what can be told of the table's own columns.
 * Undefined where nothing is, and where only the service can tell.
 */
export function firstProblem(
  filter: Expression,
  table: TableDescription,
  column: (name: string) => ColumnDescription | undefined,
): string | undefined {
  const read = parseExpression(printExpression(filter));
  if ('problems' in read) return read.problems[0]?.message;
  const names = namesOf(read.expression);
  const own = new Set(table.columns.map(({ name }) => name));
  const others = names.filter((name) => !own.has(name) && name.includes('.'));
  const related = others.flatMap((name) => column(name) ?? []);
  if (related.length < others.length) return undefined;
  // A related column that is known is checked as one of the table's own.
  const columns = [...table.columns, ...related];
  const checked = checkQuery({ filter: read.expression }, { ...table, columns });
  if ('checked' in checked) return undefined;
  const [first] = checked.problems;
  return first === undefined ? undefined : `${first.message} ${first.hint ?? ''}`.trim();
}
