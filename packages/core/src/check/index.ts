/** Names and types resolved: Query → CheckedQuery, or every problem at once. */
export { checkQuery, type CheckOptions } from './query.ts';
export { functions, resolvedFunctions, type FunctionName } from './functions.ts';
export { columnNamed } from './lookup.ts';
export type {
  CheckedAggregate,
  CheckedColumn,
  CheckedGrouping,
  CheckedGroupLines,
  CheckedLevel,
  CheckedMatch,
  CheckedWindow,
  Anchor,
  AnchorRow,
  CheckedQuery,
  CheckedSearch,
  CheckedSortTerm,
  CheckedExpression,
  CheckedScalar,
} from './checked.ts';
export { sortSignature } from './cursor.ts';
export { keyValue } from './key-value.ts';
export { isWrittenAs } from './notation.ts';
export {
  checkAggregates,
  checkGrouping,
  checkGroupLines,
  mostAggregates,
  mostLevels,
} from './grouping.ts';
export { checkValuesOf, type CheckedValues } from './values-of.ts';
export { levelFilter, lineConditions, lineFilter } from './line.ts';
export type { ResolvedSelection, ResolvedSelections } from './resolved-selections.ts';
export { checkKeys, selectedRows } from './selected.ts';
export { valueAs } from './value.ts';
