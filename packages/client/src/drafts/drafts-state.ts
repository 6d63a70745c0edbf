import type { Row, Value } from '@ephoros/core/answer';
import type { Change, ChangesAnswer } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import type { TableDescription, Tables } from '@ephoros/core/schema';
import type { SaveOptions } from '../changes.ts';
import type { DraftConflict, RowDraft } from './draft.ts';

/** Where drafts are kept while a page is loaded anew; a text that is empty keeps nothing. */
export interface DraftStore {
  readonly read: () => string;
  readonly write: (text: string) => void;
  /** Tells when somebody else has written, such as another page. */
  readonly subscribe?: (listener: () => void) => () => void;
}

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
  readonly store?: DraftStore;
  /** Told when something was saved: rows are to be read anew. */
  readonly onSaved?: (answer: ChangesAnswer) => void;
  /** Makes the key of a request; a random one by default. */
  readonly newKey?: () => string;
  /** Has something done later, in ms; gives back how to stop that. */
  readonly later?: (work: () => void, milliseconds: number) => () => void;
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
  /** `waiting` while the service is away: it is sent again by itself. */
  readonly status: 'ready' | 'saving' | 'waiting';
  /** Why the last saving failed, where no row is to blame. */
  readonly error: Error | undefined;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
}

/** A new value of a cell: of a row that is there, or of a new one by its id. */
export interface CellEdit {
  readonly row: Row | string;
  readonly column: string;
  readonly value: Value;
  /** What is shown beside it, such as the name of the row that it refers to. */
  readonly beside?: Row;
}
