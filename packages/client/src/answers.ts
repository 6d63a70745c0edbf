import type { TableSummary } from '@ephoros/core/schema';

/** A value as it stands in JSON: see the column's `encoding` in the description. */
export type Value =
  null | boolean | number | string | readonly Value[] | { readonly [name: string]: Value };

/** A row by column name. */
export type Row = Readonly<Record<string, Value>>;

/** Which rows of the result an answer holds. */
export interface Window {
  /** Null beside a cursor. */
  readonly offset: number | null;
  readonly limit: number;
  /** Told when the table's row cap lowered the limit. */
  readonly rowCap?: number;
  readonly count: number;
  readonly total: number | null;
  readonly totalKind: 'exact' | 'estimate' | 'none';
}

export interface RowsAnswer {
  readonly table: string;
  readonly columns: readonly string[];
  readonly rows: readonly Row[];
  readonly window: Window;
  /** A cursor just after the last row; null where the result ends. */
  readonly next: string | null;
  /** A cursor just before the first row; null where the result begins. */
  readonly previous: string | null;
}

export interface TableList {
  readonly title: string;
  readonly tables: readonly TableSummary[];
}
