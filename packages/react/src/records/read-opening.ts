import { parseExpression } from '@ephoros/core/expression';
import type { TableDescription } from '@ephoros/core/schema';
import { readPaint } from '@ephoros/core/view';
import type { Opening } from './opening.ts';

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
