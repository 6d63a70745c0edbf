/** The filter language (CQL2 Text, OGC 21-065): text to tree and back. */
export { parseExpression, type ExpressionLimits } from './parse.ts';
export { printExpression, printText } from './print.ts';
export {
  property,
  text,
  number,
  compare,
  and,
  not,
  type Comparator,
  type Expression,
  type Span,
} from './expression.ts';
