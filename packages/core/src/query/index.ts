/** The question: what to show. The URL parameters are one spelling of it. */
export type {
  Query,
  QueryWith,
  WrittenQuery,
  SortTerm,
  Term,
  Name,
  Place,
  TotalKind,
  Shape,
} from './query.ts';
export { parseSort, parseTerms } from './parse-terms.ts';
export { printTerms, termOf, sortsBy } from './term.ts';
export { printParameters, queryParameters, type QueryParameter } from './parameters.ts';
export { printWithoutValues } from './without-values.ts';
export { parseParameters, unknownParameter, type ParameterLimits } from './parse-parameters.ts';
export { parseCursor, printCursor, type Cursor } from './cursor.ts';
export { groupsPart, isOfGroups, matchPart, rowsPart, windowPart } from './parts.ts';
export { plainConditions, type PlainCondition, type PlainValue } from './plain-condition.ts';
export { parseNames, splitList } from './names.ts';
export { parseSearch, printSearch } from './search.ts';
export { printSort } from './sort.ts';
export { defaultSort, sortInForce } from './sort-in-force.ts';
export { englishTerms, spokenTerm, type TermWords } from './spoken.ts';
export {
  conditionOf,
  isConditioned,
  termsOf,
  withCondition,
  withoutValue,
  type Condition,
} from './condition.ts';
export { literal } from './literal.ts';
export { readPattern, type TextPattern } from './pattern.ts';
export { betweenRows, type OrderTerm } from './order-range.ts';
export { hexOf, parseBase64url } from './base64url.ts';
export {
  operators,
  operatorsOf,
  readColumnTerm,
  valuesTaken,
  writeColumnTerm,
  type ColumnTerm,
  type Operator,
} from './operator.ts';
export {
  branch,
  inserted,
  movedTo,
  partAt,
  partsIn,
  placesIn,
  readTree,
  replaced,
  writeTree,
  type ConditionBranch,
  type ConditionHas,
  type ConditionPart,
  type Joining,
  type PartPath,
} from './condition-tree.ts';
