import type { CheckedColumn, CheckedGrouping, CheckedQuery } from '../check/index.ts';
import type { MemoryGroup, MemoryGroups } from '../memory/index.ts';
import type { TableDescription } from '../schema/index.ts';
import type { MilepostsAnswer, Row, RowsAnswer, Value } from './schemas.ts';

/** How many rows match, as far as that is known. */
export interface FoundTotal {
  readonly rows: number;
  readonly kind: 'exact' | 'estimate';
  /** When they were counted, in ms since 1970, where that was not for this very answer. */
  readonly countedAt?: number;
}

/** The rows of a window, in the query's order. */
export interface FoundRows {
  readonly rows: RowsAnswer['rows'];
  readonly count: number;
  /** Which values were cut, by row and column; absent where none may be. */
  readonly cuts?: RowsAnswer['cuts'];
  /** Whether the window ends early, since an answer has no room for more bytes. */
  readonly cut: boolean;
  /** Whether the window lies next to a row, so that nobody has counted the rows before it. */
  readonly nextToRow: boolean;
  /** Undefined where nobody counts, or the count is not there yet. */
  readonly total: FoundTotal | undefined;
  /** When the rows or their order were found, in ms since 1970, where that was not for this very question. */
  readonly at?: number;
  /** How many rows were looked through so far, and of how many, where that goes on. */
  readonly scanned?: { readonly rows: number; readonly of: number };
  readonly next: string | null;
  readonly previous: string | null;
}

/** A line of a level, its values as answers have them. */
export interface FoundLine extends MemoryGroup {
  readonly value: Value;
  readonly aggregates: Readonly<Record<string, Value>>;
}

/** The lines of a level in a grouping's window. */
export interface FoundLines extends Omit<MemoryGroups, 'groups'> {
  readonly lines: readonly FoundLine[];
  /** When they were made, in ms since 1970, where that was not for this very question. */
  readonly at?: number | undefined;
  /** Whether neither they nor their rows were counted. */
  readonly uncounted?: boolean;
}

/** The least and the greatest of some values, and how many of them lie in bins between. */
export interface FoundRange {
  readonly least: Value;
  readonly greatest: Value;
  /** By bin, from 0; bins without values may be left out. */
  readonly countIn: (bins: number) => Promise<ReadonlyMap<number, number>>;
}

/** Places of a result with their leading sort values. */
export interface FoundMileposts extends Pick<
  MilepostsAnswer,
  'state' | 'passed' | 'indexed' | 'ticks'
> {
  readonly total: FoundTotal | undefined;
}

/**
 * What finds the rows that a checked question is about: a database, or an array in memory. Values
 * stand as in every answer, or as `JsonText`.
 */
export interface Executor {
  rows(query: CheckedQuery): Promise<FoundRows>;
  /** One row by its key's values, as answers have them, as text; undefined where there is none. */
  row(
    table: TableDescription,
    columns: readonly CheckedColumn[],
    key: readonly string[],
  ): Promise<Row | undefined>;
  lines(grouping: CheckedGrouping): Promise<FoundLines>;
  /** The aggregates of a grouping without levels. */
  aggregates(grouping: CheckedGrouping): Promise<Pick<FoundLine, 'aggregates'> & { at?: number }>;
  /** Undefined where there is no value that has a distance from others. */
  range(grouping: CheckedGrouping): Promise<FoundRange | undefined>;
  /** Up to `count` places of a result, evenly spaced. */
  mileposts(query: CheckedQuery, count: number): Promise<FoundMileposts>;
  /** A value from its JSON text, without loss. */
  value(json: string): Value;
}
