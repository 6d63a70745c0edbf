import type { Row } from '@ephoros/core/answer';
import type { Problem } from '@ephoros/core/problem';
import type { TableDescription } from '@ephoros/core/schema';
import { isSaved, leftAfter, sameDraft, type DraftConflict, type RowDraft } from './draft.ts';

/**
 * What has become of the edits of one row; a row without edits has no state. `set` is the key of the
 * request that the row is sent with, `sent` the draft that the request has.
 */
export type RowState =
  | { readonly kind: 'draft'; readonly draft: RowDraft }
  | { readonly kind: 'sending'; readonly set: string; readonly sent: RowDraft }
  /** The row was edited while it was sent; without a draft its edits were discarded meanwhile. */
  | {
      readonly kind: 'changed-since';
      readonly set: string;
      readonly sent: RowDraft;
      readonly draft: RowDraft | undefined;
    }
  | { readonly kind: 'conflict'; readonly draft: RowDraft; readonly conflict: DraftConflict }
  | { readonly kind: 'refused'; readonly draft: RowDraft; readonly problems: readonly Problem[] };

/** What happens to the edits of a row. */
export type RowEvent =
  /** The draft is another one by now; undefined where nothing is left of it. */
  | { readonly kind: 'edit'; readonly draft: RowDraft | undefined }
  | { readonly kind: 'send'; readonly set: string }
  /** The request was saved; `row` is the row by now, null where it is gone or not known. */
  | {
      readonly kind: 'saved';
      readonly set: string;
      readonly row: Row | null;
      readonly table: TableDescription;
    }
  /** The request was not saved, and this row is not the reason. */
  | { readonly kind: 'returned'; readonly set: string }
  | { readonly kind: 'conflict'; readonly set: string; readonly conflict: DraftConflict }
  | { readonly kind: 'refuse'; readonly set: string; readonly problems: readonly Problem[] }
  /** Columns of a conflict were decided; what is left of the conflict, undefined where that is nothing. */
  | {
      readonly kind: 'resolve';
      readonly draft: RowDraft | undefined;
      readonly left: DraftConflict | undefined;
    };

/** What is drafted of a row: what its cells show. Undefined where that is the row as it is. */
export function draftOf(state: RowState | undefined): RowDraft | undefined {
  if (state === undefined) return undefined;
  return state.kind === 'sending' ? state.sent : state.draft;
}

/** The key of the request that a row is sent with; undefined where it is not sent. */
export function setOf(state: RowState | undefined): string | undefined {
  return state?.kind === 'sending' || state?.kind === 'changed-since' ? state.set : undefined;
}

/**
 * Whether a request may still be sent that was not answered: all that it says of the row is wanted.
 * What was added to the draft since is sent later.
 */
export function isStillWanted(state: RowState | undefined): boolean {
  if (state?.kind === 'sending') return true;
  if (state?.kind !== 'changed-since' || state.draft === undefined) return false;
  const { draft, sent } = state;
  const later = { ...draft, values: { ...draft.values, ...sent.values } };
  return sameDraft(draft, later) && draft.kind === sent.kind;
}

/** The table of transitions: the state of a row after an event; undefined once nothing is edited. */
export function next(state: RowState | undefined, event: RowEvent): RowState | undefined {
  switch (event.kind) {
    case 'edit':
      return edited(state, event.draft);
    case 'send': {
      const draft = draftOf(state);
      return draft === undefined || setOf(state) !== undefined
        ? state
        : { kind: 'sending', set: event.set, sent: draft };
    }
    case 'saved': {
      if (!isSent(state, event.set)) return state;
      if (state.kind === 'sending') return undefined;
      return drafted(leftAfter(state.draft, state.sent, event.row, event.table));
    }
    case 'returned':
      return isSent(state, event.set) ? drafted(draftOf(state)) : state;
    case 'conflict': {
      if (!isSent(state, event.set)) return state;
      const { conflict } = event;
      // Somebody else, or an earlier request, has written just this.
      if (isSaved(state.sent, conflict)) {
        return state.kind === 'sending'
          ? undefined
          : drafted(leftAfter(state.draft, state.sent, conflict.now, undefined));
      }
      const draft = draftOf(state);
      return draft && { kind: 'conflict', draft, conflict };
    }
    case 'refuse': {
      if (!isSent(state, event.set)) return state;
      const draft = draftOf(state);
      if (draft === undefined || state.kind !== 'sending') return drafted(draft);
      return { kind: 'refused', draft, problems: event.problems };
    }
    case 'resolve': {
      if (state?.kind !== 'conflict') return state;
      const { draft, left } = event;
      return draft && left ? { kind: 'conflict', draft, conflict: left } : drafted(draft);
    }
    default:
      throw new Error(`no transition for ${JSON.stringify(event satisfies never)}`);
  }
}

function edited(state: RowState | undefined, draft: RowDraft | undefined): RowState | undefined {
  switch (state?.kind) {
    case 'sending':
    case 'changed-since': {
      const { set, sent } = state;
      return draft !== undefined && sameDraft(draft, sent)
        ? { kind: 'sending', set, sent: draft }
        : { kind: 'changed-since', set, sent, draft };
    }
    case 'conflict': {
      // A conflict is about values that were read: it ends once others were.
      return draft?.observed === state.draft.observed ? { ...state, draft } : drafted(draft);
    }
    case undefined:
    case 'draft':
    case 'refused':
      return drafted(draft);
    default:
      throw new Error(`no edit of ${JSON.stringify(state satisfies never)}`);
  }
}

function drafted(draft: RowDraft | undefined): RowState | undefined {
  return draft && { kind: 'draft', draft };
}

function isSent(
  state: RowState | undefined,
  set: string,
): state is Extract<RowState, { readonly sent: RowDraft }> {
  return setOf(state) === set;
}
