import type { ResultColumn, TableSummary } from '@ephoros/core/schema';

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
  /** Whether it ends early, since an answer has no room for more bytes: `next` goes on. */
  readonly cut?: boolean;
  readonly total: number | null;
  readonly totalKind: 'exact' | 'estimate' | 'none';
  /** Whether the rows are being counted, and nothing may be said of their number until then. */
  readonly counting?: boolean;
  /** When the rows were counted (RFC 3339), where that was not for this very answer. */
  readonly countedAt?: string;
  /** When the lines were made (RFC 3339), where that was not for this very answer. */
  readonly asOf?: string;
  /** Whether the answer was made from rows that are kept here, without asking anybody. */
  readonly kept?: boolean;
}

/** A window of lines of some kind, and the ways on from it. */
export interface WindowAnswer<Line> {
  readonly rows: readonly Line[];
  readonly window: Window;
  /** A cursor just after the last row; null where the result ends. */
  readonly next: string | null;
  /** A cursor just before the first row; null where the result begins. */
  readonly previous: string | null;
}

export interface RowsAnswer<Line = Row> extends WindowAnswer<Line> {
  readonly table: string;
  readonly columns: readonly string[];
  /** Which values were cut, by row and column, where that was asked for: they are texts then. */
  readonly cuts?: readonly (readonly [row: number, column: number])[];
}

/** The line that stands for the rows of a group. */
export interface GroupLine {
  readonly value: Value;
  /** How many rows it stands for. */
  readonly count: number;
  /** How many lines of the next level it stands for; null at the last level. */
  readonly below: number | null;
  /** By the names of the aggregates. */
  readonly aggregates: Readonly<Record<string, Value>>;
  /**
   * CQL2 Text that selects the group's rows among those that meet the answer's own `filter`; null
   * where its value has no spelling (NaN).
   */
  readonly filter: string | null;
}

/** Lines of one level of a grouping. */
export interface GroupsAnswer {
  readonly table: string;
  /** Which level, from 0. */
  readonly depth: number;
  readonly levels: readonly ResultColumn[];
  readonly aggregates: readonly ResultColumn[];
  /** The values of the groups that the level lies in. */
  readonly path: readonly Value[];
  readonly groups: readonly GroupLine[];
  /** CQL2 Text that all rows of the level meet; null where nothing is asked of them. */
  readonly filter: string | null;
  readonly window: Window;
  readonly next: string | null;
  readonly previous: string | null;
}

/** Aggregates of a whole result. */
export interface AggregatesAnswer {
  readonly table: string;
  readonly aggregates: readonly ResultColumn[];
  /** By the names of the aggregates. */
  readonly values: Readonly<Record<string, Value>>;
  /** When they were made (RFC 3339), where that was not for this very answer. */
  readonly asOf?: string;
}

/** The values that a column has under a query. */
export interface ValuesAnswer {
  readonly table: string;
  readonly column: ResultColumn;
  readonly values: readonly {
    readonly value: Value;
    readonly count: number;
    readonly filter: string | null;
  }[];
  /** Of numbers, dates and timestamps; null where there is no value. */
  readonly range?: { readonly least: Value; readonly greatest: Value } | null;
  /** Bins of equal width over the range, each without its end but the last. */
  readonly histogram?: readonly {
    readonly from: Value;
    readonly to: Value;
    readonly count: number;
  }[];
  readonly window: Window;
  readonly next: string | null;
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
