import type { MilepostStatements, Statement } from '@ephoros/core/sql';

/** Which rows, as plain data: it can be sent to another process. */
export interface Counting {
  /** The same for the same rows, however they are sorted. */
  readonly key: string;
  readonly count: Statement;
  readonly estimate: Statement;
  /** Asks how much has been written to the tables that it counts. */
  readonly written: Statement;
}

/** Which rows in which order. */
export interface IndexedOrder {
  readonly counting: Counting;
  /** The same for the same rows in the same order. */
  readonly key: string;
  /** Rows from one milepost to the next. */
  readonly step: number;
  readonly mileposts: MilepostStatements;
  /** Asks how much has been written to the tables that the rows and their order come from. */
  readonly written: Statement;
}

/** How many rows there are, as far as is known. */
export interface KnownTotal {
  readonly rows: number;
  readonly kind: 'exact' | 'estimate';
  /** When they were counted, in ms since 1970, where that was not for this very question. */
  readonly countedAt?: number;
}

/** The sort values of a row; `number` counts from 1. */
export interface Sample {
  readonly number: number;
  readonly values: readonly (string | null)[];
}

/** What is known of a sorted result when a place in it is asked for. */
export interface KnownPlaces {
  /** Whether its mileposts are set, or being set, at all. */
  readonly indexed: boolean;
  /** The last milepost before the place. */
  readonly sample?: Sample | undefined;
  /** The number of rows, as it was counted last. */
  readonly total?: number | undefined;
}

/** How far the mileposts of a result are. */
export interface IndexState {
  readonly state: 'ready' | 'building' | 'waiting' | 'failed';
  /** Mileposts at even distances over what is built so far. */
  readonly samples: readonly Sample[];
  /** Rows passed so far. */
  readonly passed: number;
}

/**
 * What is remembered of results: totals and mileposts, made once for all who ask, in the
 * background. Nothing here fails because the database does: then it is not known, yet.
 */
export interface PositionIndex {
  /**
   * How many rows there are. `exact` waits `patience` ms at most for a count; what takes longer
   * is counted further, and an estimate given meanwhile. Undefined where not even that is known.
   * A count that nobody waits for any more, nor has an estimate instead of, is given up.
   */
  total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    patience: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined>;
  /** What is known about the place before which `offset` rows lie. */
  places(key: string, countKey: string, offset: number): Promise<KnownPlaces>;
  /** Sets mileposts, unless they are set or being set already. Resolves at once. */
  begin(order: IndexedOrder): Promise<void>;
  /** Up to `count` mileposts; undefined where nobody has begun to set any. */
  overview(key: string, count: number): Promise<IndexState | undefined>;
  /**
   * A mark of how much has been written to the tables of a statement by `compileWritten`: another one
   * once more was. Undefined where nobody counts that.
   */
  mark(written: Statement): Promise<string | undefined>;
  close(): Promise<void>;
}
