/** The filter language (CQL2, OGC 21-065): Text and JSON to tree and back. */
export { defaultLimits, type ExpressionLimits } from './limits.ts';
export { parseExpression, parseValues } from './parse.ts';
export { printExpression, printName, printText } from './print.ts';
export { parseExpressionJson, printExpressionJson } from './json.ts';
export { JsonRefusal, readJson, type JsonNode } from './json-text.ts';
export { parsePath } from './parse-path.ts';
export { pathOf, printPath, type PathValue } from './path.ts';
export {
  property,
  text,
  number,
  compare,
  and,
  or,
  not,
  call,
  missing,
  childrenOf,
  isLogical,
  mostSelected,
  isProperty,
  type ArithmeticOperator,
  type Comparator,
  type Expression,
  type Span,
} from './expression.ts';
export { date, where, type ConditionBuilder, type Literal, type Literals } from './build.ts';
export {
  storedSelectionId,
  storedSelectionIds,
  storedSelectionMember,
} from './stored-selection-id.ts';
