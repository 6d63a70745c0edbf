/** CheckedQuery → SQL: frozen text and its bound parameters. Compiling does no I/O. */
export { compileMileposts, stepsFrom, type MilepostStatements } from './mileposts.ts';
export { amongKeys, compilePlaces, compilePlacesCopy } from './places.ts';
export { siblingOf, type Sibling } from './siblings.ts';
export { compileChunks, keyColumns, chunkBetween, type ChunkTemplates } from './chunks.ts';
export { compileRow, compileRows } from './rows.ts';
export {
  compileCopy,
  compileGroupCopy,
  labelsIn,
  type CopyForm,
  type CopyStatement,
} from './copy.ts';
export { compileJsonRows, type JsonRows } from './json-rows.ts';
export { cursorColumns, mayBeCut } from './keyset.ts';
export { canCountValues, compileGroups } from './groups.ts';
export { isWalked } from './plain-values.ts';
export { compileHistogram, compileRange } from './histogram.ts';
export { compileCount, compileEstimate, compileWritten, withTables } from './count.ts';
export { compilePlan, isPlan, readPlan, stepsOf, type PlanNode } from './plan.ts';
export { onlyRows, type RowPolicy } from './only-rows.ts';
export type { Relations } from './scope.ts';
export {
  catalogMarkStatement,
  encodingStatement,
  grantsStatement,
  relationsStatement,
  roleStatement,
  typesStatement,
} from './catalog.ts';
export {
  beginReading,
  beginReadOnly,
  compileSettings,
  limitStatements,
  ownProcess,
  ping,
  rollback,
  setForTransaction,
  settingsInForce,
  statesOfSessions,
  type Settings,
} from './session.ts';
export { fill, type Relation, type Statement, type Template } from './statement.ts';
export { canWalkParents, compileFirstStretch } from './parent-walk.ts';
export { pathsOf, type Paths } from './paths.ts';
export {
  compileAdditions,
  compileCurrentRows,
  compileHeldRows,
  compileRowPolicy,
  compileLocks,
  compileMayRead,
  compileReferringCounts,
  compileReferringRows,
  compileMatchingKeys,
  compileRemovals,
  compileRowChanges,
  compileValueTest,
  type FollowedReference,
  type ExpectedColumn,
  type WrittenColumn,
  type WrittenRow,
  type WrittenShape,
  type WrittenTable,
} from './written-rows.ts';
export {
  beginNamed,
  canFlushStatistics,
  checkDeferred,
  commit,
  deferConstraints,
  compileConstrained,
  compileFate,
  savepoint,
} from './transaction.ts';
export {
  compileIndex,
  compileIndexFacts,
  compileSupposed,
  indexSize,
  serves,
  trigramsExtension,
  wantedIndexes,
  type ExistingIndex,
  type IndexColumn,
  type WantedIndex,
} from './advice.ts';
export { listenToTriggers, liveTriggersOf, tablesWithTriggers } from './live-triggers.ts';
export {
  beginFollowing,
  followLog,
  livePublicationOf,
  followerTimeout,
  tablesInLog,
} from './live-log.ts';
export {
  serverFacts,
  serverMark,
  serverNeeds,
  whereServerStands,
  whereTheLogStands,
} from './server.ts';
