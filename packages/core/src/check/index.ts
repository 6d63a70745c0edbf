/** Names and types resolved: Query → CheckedQuery, or every problem at once. */
export { checkQuery, type CheckOptions } from './query.ts';
export { functions, resolvedFunctions, type FunctionName } from './functions.ts';
export type { Tables } from './lookup.ts';
export type {
  CheckedColumn,
  Beside,
  CheckedQuery,
  CheckedSearch,
  CheckedSortTerm,
  CheckedExpression,
  CheckedScalar,
} from './checked.ts';
export { sortSignature } from './cursor.ts';
export { checkValue } from './value.ts';
