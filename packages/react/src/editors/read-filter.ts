import { parseExpression, printExpression, type Expression } from '@ephoros/core/expression';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { checkCondition } from '../records/check-condition.ts';

type ColumnNamed = (name: string) => ColumnDescription | undefined;

/** Reads a condition from its text, or says what is wrong with it. */
export const readFilter = parseExpression;

/**
 * The errors of a filter before it is sent: those that the table's own columns show.
 * Undefined where nothing is, and where only the service can tell.
 */
export function firstProblem(
  filter: Expression,
  table: TableDescription,
  column: ColumnNamed,
): string | undefined {
  const read = readSound(printExpression(filter), table, column);
  return 'problem' in read ? read.problem : undefined;
}

/** A condition from its text, if nothing is wrong with it that can be reported here. */
export function readSound(
  text: string,
  table: TableDescription,
  column: ColumnNamed,
): { readonly expression: Expression } | { readonly problem: string } {
  const read = parseExpression(text);
  if ('problems' in read) return { problem: read.problems[0]?.message ?? '' };
  const checked = checkCondition(read.expression, table, column);
  if (checked === undefined || 'checked' in checked) return read;
  const [first] = checked.problems;
  return { problem: `${first?.message ?? ''} ${first?.hint ?? ''}`.trim() };
}
