import type { Progress } from '@ephoros/core/answer';
import type {
  CopyStatement,
  MilepostStatements,
  ChunkTemplates,
  Statement,
} from '@ephoros/core/sql';
import type { CachedAnswer } from '../run/index.ts';
import type { PlaceKind } from './place-codec.ts';
import type { Key } from './places.ts';

/** The way in which rows are found at any place of an order. */
export type MakingWay = 'mileposts' | 'sort' | 'slices';

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
  /** Gives every row: for few rows, where the step could only be guessed. */
  readonly fine?: Statement;
  /** Asks how much has been written to the tables that the rows and their order come from. */
  readonly written: Statement;
  /** The first rows alone: what they cost shows whether an index gives the order. */
  readonly first: Statement;
  /** How many rows there may be, where somebody has guessed it and it may be reported. */
  readonly rows?: number | undefined;
  /** Whether its first rows were read to take long, whatever the planner says of them. */
  readonly slow?: boolean;
  /** How its places are found; absent where keys have no fixed size. */
  readonly places?: PlaceStatements;
  /** Whether its rows are those of many results one behind the other, whose values stand behind the keys. */
  readonly grouped?: true;
}

/** Two ways to find the keys of a result in its order. */
export interface PlaceStatements {
  readonly kinds: readonly PlaceKind[];
  /** One sort of all of them; serves always. */
  readonly sort: Statement;
  /** The same written out as bytes, where nothing but keys is wanted. */
  readonly copy?: CopyStatement;
  /**
   * Chunk by chunk along the same order without the condition, where an index gives that: what has been
   * found is reported meanwhile. Absent where there is no condition.
   */
  readonly chunks?: { readonly along: IndexedOrder; readonly templates: ChunkTemplates };
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

/** A window that is requested: its rows are counted from the beginning, or lie next to a row. */
export type WindowPlace =
  | { readonly offset: number; readonly limit: number }
  | {
      readonly side: 'after' | 'before';
      readonly key: readonly (string | null)[];
      readonly values: readonly (string | null)[];
      readonly limit: number;
    };

/** A result among others that differ only in the values that some columns are held to. */
export interface GroupPlace {
  /** The order in which all of them stand one behind the other. */
  readonly key: string;
  /** These values of it. */
  readonly values: readonly (string | null)[];
}

/** Which window of which result is requested. */
export interface PositionQuery {
  /** The key of its order, and that of its count. */
  readonly key: string;
  readonly countKey: string;
  readonly window: WindowPlace;
  readonly group?: GroupPlace | undefined;
  /** The caller does not want it any more: what makes it is cancelled unless others wait for it. */
  readonly isCancelled?: boolean | undefined;
}

/** A window by the keys of its rows. */
export interface PlacedKeys {
  /** The key of the order that these places are of, and how many of its rows lie before the result. */
  readonly key: string;
  readonly begin: number;
  /** How many rows of the result lie before the first of them. */
  readonly offset: number;
  /** Fewer than requested at the end of the result, or where it was looked through no further. */
  readonly keys: readonly Key[];
  /** Whether further rows are known to follow. */
  readonly more: boolean;
  /** Rows found so far, and whether these are all. */
  readonly total: number;
  readonly complete: boolean;
  /** When they were looked for, in ms since 1970, how long that took, and whether something was written since. */
  readonly at: number;
  readonly took: number;
  readonly outdated: boolean;
  /** Rows looked through so far, of how many, and the sort values of the last one, while that goes on. */
  readonly scanned?:
    | {
        readonly rows: number;
        readonly of: number;
        readonly edge: readonly (string | null)[] | undefined;
      }
    | undefined;
}

/** What is known of a sorted result when a window of it is requested. */
export interface KnownPlaces {
  /** Whether its mileposts or places are there, or being made, at all. */
  readonly indexed: boolean;
  /** How they are made, once that is decided. */
  readonly by?: MakingWay | undefined;
  /** The last milepost before the window. */
  readonly sample?: Sample | undefined;
  /** The number of rows, as it was counted last. */
  readonly total?: number | undefined;
  /** The keys of its rows; undefined where their places are not known, yet. */
  readonly window?: PlacedKeys | undefined;
  /** How far the making is; undefined where nothing more is to be waited for. */
  readonly progress?: Progress | undefined;
}

/** How far the mileposts or places of a result are. */
export interface IndexState {
  readonly state: 'ready' | 'building' | 'waiting' | 'failed';
  /** Mileposts at even distances over what is built so far. */
  readonly samples: readonly Sample[];
  /** The same of places: the keys of rows instead of their values. */
  readonly keys?: readonly { readonly number: number; readonly key: Key }[] | undefined;
  /** Rows passed so far. */
  readonly passed: number;
}

/** How a long answer is requested. */
export interface LongRequest {
  /** Ms that the caller waits. */
  readonly waitLimit: number;
  /** Whether long cells may be cut; they may not by default. */
  readonly mayBeCut?: boolean;
  /** The caller does not want it any more: it is cancelled unless others wait for it. */
  readonly isCancelled?: boolean;
}

/** An answer that is there; or how far it is. */
export type LongAnswer = { readonly answer: CachedAnswer } | { readonly progress: Progress };

/**
 * What is remembered of results: totals, mileposts, places and what took long to be found, made once for all who
 * ask, in the background. But for `longAnswer`, nothing here fails because the database does: then it is not
 * known, yet.
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
    waitLimit: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined>;
  /** What is known about a window; waits `patience` ms at most for its place to be found. */
  places(wanted: PositionQuery, waitLimit?: number, signal?: AbortSignal): Promise<KnownPlaces>;
  /**
   * Sets mileposts or finds places, unless that is done or under way already. Resolves once it is decided
   * how; undefined where nobody can tell.
   */
  begin(order: IndexedOrder): Promise<MakingWay | undefined>;
  /**
   * Takes in that a group takes long to be read by itself. Once a second one does, the places of all of them are
   * found at once.
   */
  beginGroups(order: IndexedOrder, values: GroupPlace['values']): Promise<void>;
  /** Takes out places whose rows are gone; `offset` is where the first of them was, among all of them. */
  lose(key: string, keys: readonly Key[], offset: number): Promise<void>;
  /** Up to `count` mileposts; undefined where nobody has begun to set any. */
  overview(key: string, count: number): Promise<IndexState | undefined>;
  /**
   * Runs a statement that takes long, once for all who ask, and keeps its answer for a while. Waits
   * `patience` ms at most; it goes on behind that until nobody has requested a while.
   * @throws Failure
   */
  longAnswer(statement: Statement, wanted: LongRequest, signal?: AbortSignal): Promise<LongAnswer>;
  /**
   * A mark of how much has been written to the tables of a statement by `compileWritten`: another one
   * once more was. Undefined where nobody counts that.
   */
  mark(written: Statement): Promise<string | undefined>;
  /** Forgets long answers, since the tables are others. */
  forget(): Promise<void>;
  close(): Promise<void>;
}
