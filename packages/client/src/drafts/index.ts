/** Edits that are not saved yet, over any row source. */
export {
  Drafts,
  type CellEdit,
  type DraftsOptions,
  type DraftsState,
  type DraftStore,
} from './drafts.ts';
export { isNew, shownRow, type DraftConflict, type RowDraft } from './draft.ts';
export { draftedOutline, draftedRows } from './drafted-rows.ts';
