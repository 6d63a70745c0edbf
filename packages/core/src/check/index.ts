/** Names and types resolved: Query → CheckedQuery, or every problem at once. */
export { checkQuery } from './query.ts';
export type { CheckedQuery, CheckedSortTerm, CheckedExpression, CheckedScalar } from './checked.ts';
export { checkValue } from './value.ts';
