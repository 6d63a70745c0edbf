/** Change sets: what is to be added, changed and removed, held against descriptions. */
export {
  mostChanges,
  type Addition,
  type Change,
  type MatchingChange,
  type NewRowReference,
  type Removal,
  type RowChange,
  type WrittenValue,
  type WrittenValues,
} from './change.ts';
export { checkChanges, actionNotAllowed, type ChangeOptions } from './check.ts';
export type {
  CheckedAddition,
  CheckedChange,
  CheckedMatchingChange,
  CheckedRemoval,
  CheckedRowChange,
  CheckedValue,
  ExpectedValue,
} from './checked.ts';
export { brokenRules, readRule, rulesOf } from './rules.ts';
export { isSameAnswer } from './same-answer.ts';
export { writtenValue } from './written-value.ts';
export {
  changesAnswer,
  changeSetBody,
  historyAnswer,
  type ChangeOutcome,
  type ChangesAnswer,
  type FollowingRows,
  type HistoryAnswer,
  type HistoryEntry,
} from './schemas.ts';
export { applyChanges, type AppliedChanges } from './memory.ts';
