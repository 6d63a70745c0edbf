import { parseExpression, type Expression } from '@ephoros/core/expression';

/** A condition as an expression, whatever form it is at hand in; undefined for what is none. */
export function filterExpression(filter: Expression | string | undefined): Expression | undefined {
  if (typeof filter !== 'string') return filter;
  const read = parseExpression(filter);
  return 'expression' in read ? read.expression : undefined;
}
