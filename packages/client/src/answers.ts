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
  /** When the rows were counted (RFC 3339), where that was not for this very answer. */
  readonly countedAt?: string;
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

/** Sort values at even positions of a result, as far as they are known. */
export interface MilepostsAnswer {
  readonly table: string;
  /** The leading column of the sort, whose values the ticks hold. */
  readonly column: string;
  readonly descending: boolean;
  /** Whether an index leads with it. */
  readonly indexed: boolean;
  /** Ticks come while the mileposts are being set, and change no more once `ready`. */
  readonly state: 'ready' | 'building' | 'waiting' | 'failed';
  /** Rows passed so far. */
  readonly passed: number;
  readonly total: number | null;
  readonly totalKind: 'exact' | 'estimate' | 'none';
  readonly ticks: readonly { readonly offset: number; readonly value: Value }[];
}
