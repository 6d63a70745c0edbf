import type { CheckedMatch } from '../check/index.ts';
import type { TableDescription } from '../schema/index.ts';

/** A value to be written, in PostgreSQL's notation; or a column of a row that the set adds. */
export type CheckedValue = string | null | { readonly ref: string; readonly column: string };

/** Values to be written, by column. */
export type CheckedValues = ReadonlyMap<string, CheckedValue>;
/**
 * What a value must be for a change to apply. A text is in PostgreSQL's notation and compared as its
 * type compares; null is null. `answered` is the JSON text that an answer had, for types whose answers
 * do not hold all of PostgreSQL's text. `exact` is PostgreSQL's own text, which may not differ at all.
 */
export type ExpectedValue =
  string | null | { readonly answered: string } | { readonly exact: string | null };

/** Values as they were read, by column. */
export type ExpectedValues = ReadonlyMap<string, ExpectedValue>;

interface Common {
  /** Which change of the set it is, from 0. */
  readonly at: number;
  readonly table: TableDescription;
}

export interface CheckedAddition extends Common {
  readonly kind: 'add';
  readonly ref?: string;
  readonly values: CheckedValues;
}

/** The key in PostgreSQL's notation, and as an address spells it. */
interface OfRow extends Common {
  readonly key: readonly string[];
  readonly address: string;
  readonly was: ExpectedValues;
}

export interface CheckedRowChange extends OfRow {
  readonly kind: 'change';
  readonly values: CheckedValues;
}

export interface CheckedRemoval extends OfRow {
  readonly kind: 'remove';
}

export interface CheckedMatchingChange extends Common {
  readonly kind: 'set';
  readonly match: CheckedMatch;
  readonly count?: number;
  readonly values: CheckedValues;
}

/** A change whose names exist and whose values are such as their columns take. */
export type CheckedChange =
  CheckedAddition | CheckedRowChange | CheckedRemoval | CheckedMatchingChange;
