/** What is stated about changes of rows, in one language. Numbers come written for the reader. */
export interface EditingMessages {
  /** The field of a cell. */
  readonly edit: (label: string) => string;
  readonly missing: string;
  readonly seek: string;
  readonly nothingFound: string;
  /** So many changes in so many rows. */
  readonly waiting: (
    changes: number,
    writtenChanges: string,
    rows: number,
    writtenRows: string,
  ) => string;
  readonly save: string;
  readonly review: string;
  readonly drop: string;
  readonly saving: string;
  readonly savedAgain: string;
  readonly errors: (count: number, written: string) => string;
  readonly changedByOthers: (count: number, written: string) => string;
  /** After saving: so many rows, some of which the condition in force no longer matches. */
  readonly savedRows: (count: number, written: string) => string;
  readonly unmatched: (count: number, written: string) => string;
  readonly undone: (count: number, written: string) => string;
  /** The browser has no room for what is drafted. */
  readonly notStored: string;
  /** Rows that were edited in another tab. */
  readonly fromOtherTabs: (count: number, written: string) => string;
  /** Who changed what, and when. */
  readonly history: string;
  readonly noHistory: string;
  readonly historyKinds: Readonly<Record<'add' | 'change' | 'remove', string>>;
  /** The database made the change itself, with a row that this one refers to. */
  readonly byRule: string;
  readonly wasUndone: string;
  readonly undoes: string;
  readonly undoChanges: (count: number, written: string) => string;
  readonly showMore: string;
  /** Rows of another table that the database removes or changes with those that are removed. */
  readonly follows: (
    kind: 'remove' | 'change',
    count: number,
    written: string,
    table: string,
  ) => string;
  readonly removeRows: (count: number, written: string) => string;
  readonly restoreRow: string;
  readonly tooManyToRemove: (most: string) => string;
  readonly undo: string;
  readonly redo: string;
  readonly addRow: string;
  readonly newRow: string;
  readonly struck: string;
  readonly was: (value: string) => string;
  readonly mine: string;
  readonly theirs: string;
  readonly gone: string;
  readonly letGo: string;
  readonly goTo: string;
  readonly list: string;
  /** Cells that could not be pasted, since their rows are not there yet or may not be written. */
  readonly notPasted: (count: number, written: string) => string;
  /** Lines that were pasted past the last row. */
  readonly addPasted: (count: number, written: string) => string;
  /** The same value for all selected rows. */
  readonly setSelected: string;
  readonly setColumn: string;
  readonly setIn: (count: number, written: string) => string;
  readonly otherCount: (count: number, written: string) => string;
  /** Rows from a file. */
  readonly importRows: string;
  readonly file: string;
  readonly sheet: string;
  readonly goesInto: (name: string) => string;
  readonly leaveOut: string;
  readonly line: (number: string) => string;
  /** New rows that become drafts, or are saved at once. */
  readonly addRows: (count: number, written: string) => string;
  readonly saveRows: (count: number, written: string) => string;
  readonly savedOf: (saved: string, all: string) => string;
  readonly stop: string;
  /** The names of related rows are looked up. */
  readonly lookingUp: string;
  readonly noRowNamed: (name: string, table: string) => string;
  readonly severalNamed: (name: string, table: string) => string;
  /** The field that corrects a value of a line. */
  readonly correctedValue: (label: string, line: string) => string;
  /** Of a field on the card. */
  readonly change: (label: string) => string;
  readonly changeShort: string;
  readonly keys: readonly (readonly [string, string])[];
}
