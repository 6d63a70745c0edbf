/** What answers questions about one database, for HTTP and for programs. */
export { TableAnswers } from './answers.ts';
export type { PlannedExport } from './exporting.ts';
export {
  Engine,
  openPositionIndex,
  serversOf,
  optionsOfWorker,
  type QueryOptions,
  type EngineOptions,
} from './engine.ts';
export { openTables, tablesOver, type OpenTable, type Tables } from './open-tables.ts';
export type { RequestContext } from './request-context.ts';
export { StoredSelectionAnswers, type WantedSelection } from './stored-selections.ts';
export { ChangeAnswers } from './change-answers.ts';
export { SavedViewAnswers, mostListed } from './saved-views.ts';
