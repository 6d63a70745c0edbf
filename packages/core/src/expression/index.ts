/** The filter language (CQL2, OGC 21-065): Text and JSON to tree and back. */
export { defaultLimits, parseExpression, type ExpressionLimits } from './parse.ts';
export { printExpression, printText } from './print.ts';
export { parseExpressionJson, printExpressionJson } from './json.ts';
export {
  property,
  text,
  number,
  compare,
  and,
  not,
  childrenOf,
  type ArithmeticOperator,
  type Comparator,
  type Expression,
  type Span,
} from './expression.ts';
export { where, type ConditionBuilder, type Literal } from './build.ts';
