import type { Row } from '@ephoros/core/answer';

/** What is known of a result as a whole. A new object whenever anything has changed. */
export interface SourceState {
  /** Undefined until the first answer. Of an open end: how many rows are known to be there. */
  readonly total: number | undefined;
  readonly totalKind: 'exact' | 'estimate' | 'none';
  /** Whether more rows may follow those of `total`, since nobody counts them. */
  readonly open: boolean;
  /**
   * `loading` while any row that is looked at is on its way; `retrying` while the service is away
   * and will be requested again at `retryAt`.
   */
  readonly status: 'loading' | 'ready' | 'retrying' | 'failed';
  /** Why the rows looked at could not be had, when `failed` or `retrying`. */
  readonly error: Error | undefined;
  /** In ms since 1970, when `retrying`. */
  readonly retryAt: number | undefined;
  /** How far the service is with what takes long; undefined where nothing does. */
  readonly progress: ScanProgress | undefined;
}

/**
 * `finding`: the rows looked at are not there yet. `searching`: the result is looked through, and its rows are
 * those that were found so far; `stopped` where that does not go on, until `retry`.
 */
export type ScanProgress =
  | { readonly kind: 'finding'; readonly share: number }
  | {
      readonly kind: 'searching';
      readonly rows: number;
      readonly of: number;
      readonly stopped: boolean;
    };

/** Before the first answer. */
export const unanswered: SourceState = {
  total: undefined,
  totalKind: 'none',
  open: false,
  status: 'loading',
  error: undefined,
  retryAt: undefined,
  progress: undefined,
};

/** What a view asks for rows, or other lines, by position. */
export interface RowSource<Line = Row> {
  readonly state: () => SourceState;
  /** The row at a position, counted from 0; undefined while it is not there. */
  readonly row: (position: number) => Line | undefined;
  /**
   * The rows that are looked at now: `from` up to, not including, `to`. They are loaded where
   * they are missing; what is on its way and no longer looked at is aborted.
   */
  readonly setVisibleRows: (from: number, to: number) => void;
  /** Reports whenever the state or a row has changed; gives back how to stop that. */
  readonly subscribe: (listener: () => void) => () => void;
  /** Asks again for what failed, at once. */
  readonly retry: () => void;
  /**
   * Asks again for the rows that are looked at, and how many there are. The old rows stay until the
   * new ones come; the place stays.
   */
  readonly refresh: () => void;
  /** Looks through no more rows, where a result is looked through; `retry` goes on. */
  readonly stop?: () => void;
  /** Aborts everything and forgets all rows. */
  readonly close: () => void;
}
