/** Edits that are not saved yet, over any row source. */
export { Drafts } from './drafts.ts';
export type { DraftStore } from './draft-store.ts';
export type { CellEdit, DraftsOptions, DraftsState, SavedSet } from './drafts-state.ts';
export { isNew, shownRow, type DraftConflict, type RowDraft } from './draft.ts';
export { draftedOutline, draftedRows } from './drafted-rows.ts';
/** For idempotency keys: a browser has `crypto.randomUUID` on secure pages alone. */
export { randomId } from '../random-id.ts';
