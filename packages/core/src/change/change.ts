import type { Value } from '../answer/index.ts';

/** The row that an addition of the same set makes, where the key of it is meant. */
export interface NewRowReference {
  /** The name that the addition gives itself. */
  readonly ref: string;
}

/** A value to be written: as answers hold it, or the key of a row that the same set adds. */
export type WrittenValue = Value | NewRowReference;

/** Values by column. */
export type WrittenValues = Readonly<Record<string, WrittenValue>>;

/** A new row. Columns that are left out have the database's own defaults. */
export interface Addition {
  readonly kind: 'add';
  /** The published name; of a set over one table it is that one. */
  readonly table?: string;
  /** What other changes of the set call the new row. */
  readonly ref?: string;
  readonly values: WrittenValues;
}

/** New values of a row. */
export interface RowChange {
  readonly kind: 'change';
  readonly table?: string;
  /** The key: a text for each of its columns. */
  readonly key: readonly string[];
  /** Values as they were read; the row is changed where they still stand. Others are not compared. */
  readonly was?: Readonly<Record<string, Value>>;
  readonly values: WrittenValues;
}

/** A row that goes. */
export interface Removal {
  readonly kind: 'remove';
  readonly table?: string;
  readonly key: readonly string[];
  /** Values as they were read; the row goes where they still stand. */
  readonly was?: Readonly<Record<string, Value>>;
}

/** The same new values for all rows that match. */
export interface MatchingChange {
  readonly kind: 'set';
  readonly table?: string;
  /** CQL2 Text, such as `SELECTED('stored:…')`; all rows match an empty one. */
  readonly filter: string;
  readonly search?: string;
  /** How many rows it must be; what else they are is reported without changing any. */
  readonly count?: number;
  readonly values: WrittenValues;
}

/** One change of a set. */
export type Change = Addition | RowChange | Removal | MatchingChange;

/** Changes that one set holds at most, and rows that a change of matching rows reaches at most. */
export const mostChanges = 100_000;
