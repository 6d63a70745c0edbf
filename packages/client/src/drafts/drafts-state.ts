import type { Row, Value } from '@ephoros/core/answer';
import type { Change, ChangesAnswer } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import type { TableDescription, Tables } from '@ephoros/core/schema';
import type { SaveOptions } from '../changes.ts';
import type { DraftStore } from './draft-store.ts';
import type { DraftConflict, RowDraft } from './draft.ts';

export interface DraftsOptions {
  readonly table: TableDescription;
  /** The tables that rules may name. */
  readonly tables?: Tables;
  /** Saves changes of the table, as `client.changes.save` does. */
  readonly save: (
    changes: readonly Change[],
    options: SaveOptions & { readonly table: string },
    signal?: AbortSignal,
  ) => Promise<ChangesAnswer>;
  /**
   * Withdraws a request that was not answered, by its key, as `client.changes.withdraw` does: it is
   * never saved from then on. Gives the answer where it was saved before, else null. Without it a
   * request that was not answered counts as not saved once its edits are discarded.
   */
  readonly withdraw?: (key: string) => Promise<ChangesAnswer | null>;
  readonly store?: DraftStore;
  /** Names this page: its drafts differ by it from those of other pages that share the store. */
  readonly page?: string;
  /** Called when something was saved: rows are to be read again. */
  readonly onSaved?: (answer: ChangesAnswer) => void;
  /** Makes the key of a request; a random one by default. */
  readonly newKey?: () => string;
  /** Has something done later, in ms; gives back how to stop that. */
  readonly later?: (work: () => void, milliseconds: number) => () => void;
}

/** What was saved last, so that it can be undone. */
export interface SavedSet {
  /** The set of changes in the history; null where there is none. */
  readonly id: string | null;
  /** Rows that were saved. */
  readonly rows: number;
  /** The addresses of those that are there. */
  readonly keys: readonly string[];
}

/** What is drafted. A new object whenever anything has changed. */
export interface DraftsState {
  /** In the order in which they were begun; new rows first, the newest on top. */
  readonly rows: readonly RowDraft[];
  /** Cells and rows that wait to be saved. */
  readonly changes: number;
  /** What is wrong, by the id of the row. */
  readonly problems: ReadonlyMap<string, readonly Problem[]>;
  /** Rows that somebody else has changed meanwhile, by their id. */
  readonly conflicts: ReadonlyMap<string, DraftConflict>;
  /** Rows that were edited in another page of the browser. */
  readonly fromOtherPages: number;
  /** `waiting` while the service is unavailable: what was sent is sent again by itself. */
  readonly status: 'ready' | 'saving' | 'waiting';
  /** Why the last saving failed, where no row is to blame. */
  readonly error: Error | undefined;
  /** `full` where the store has no room: what is drafted is lost when the page is left. */
  readonly storage: 'stored' | 'full';
  /** What was saved last, until something else is edited. */
  readonly saved: SavedSet | undefined;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
}

/** A new value of a cell: of a row that is there, or of a new one by its id. */
export interface CellEdit {
  readonly row: Row | string;
  readonly column: string;
  readonly value: Value;
  /** What is shown next to it, such as the name of the row that it refers to. */
  readonly labels?: Row;
}
