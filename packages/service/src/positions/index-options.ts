import type { Database } from '../run/index.ts';

/** What a position index may take up, and when it looks again. */
export interface PositionIndexOptions {
  /** Bytes of mileposts stored at most, the least recently used dropped; 64 MB by default. */
  readonly memory?: number;
  /** Bytes of places stored in files at most, half of them for one result; 2 GB by default. */
  readonly fileBytes?: number;
  /** The folder of these files; that of the system's temporary files by default. */
  readonly folder?: string;
  /** How many results are sorted or have mileposts set at the same time; 1 by default. */
  readonly atOnce?: number;
  /** Costs of the planner from which on a window is read by its keys; 5,000 by default. */
  readonly costly?: number;
  /** A result that nobody has requested so long is given up; in ms, 20,000 by default. */
  readonly interest?: number;
  /** The shortest time after which what is known of one result is made again; in ms, 30,000 by default. */
  readonly staleAfter?: number;
  /** That of a table that is written to is made again after this time; 600,000 by default. */
  readonly age?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** The connections of a position index. */
export interface IndexConnections {
  /** For counts and long answers. */
  readonly background: Database;
  /** For what goes over whole results, to set mileposts or to find places. */
  readonly passes: Database;
  /** For what the planner and the statistics say. */
  readonly quick: Database;
}
