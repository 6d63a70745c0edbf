import { parseExpression, type Expression } from '@ephoros/core/expression';
import type { TableDescription } from '@ephoros/core/schema';
import { readPaint, type PaintRule } from '@ephoros/core/view';

/** What views of a table begin with, what they join, and how they look, as its description says. */
export interface Opening {
  readonly begin?: Expression;
  readonly fixed?: Expression;
  readonly paint?: readonly PaintRule[];
}

/** Reads a condition from its text. */
export const readCondition = parseExpression;

/** Reads it. What cannot be read is left out: the service has looked at it before. */
export function readOpening({ begin, fixed, paint }: TableDescription): Opening {
  const [beginRead, fixedRead] = [begin, fixed].map((text) => {
    const read = text === undefined ? undefined : parseExpression(text);
    return read !== undefined && 'expression' in read ? read.expression : undefined;
  });
  return {
    ...(beginRead && { begin: beginRead }),
    ...(fixedRead && { fixed: fixedRead }),
    ...(paint && { paint: readPaint(paint).rules }),
  };
}
