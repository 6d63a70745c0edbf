import type { DatabaseOptions } from './database.ts';

/** A count or a pass over a large table takes longer than a window may; in ms. */
const backgroundLimit = 120_000;

interface Shares {
  readonly workers: DatabaseOptions;
  /** For counts and passes over whole results, which take long. */
  readonly background: DatabaseOptions;
  /** For what the planner and the statistics say, which must not wait behind those. */
  readonly quick: DatabaseOptions;
}

/**
 * Parts a budget of connections: a fifth, at least one, for what is done in the background, one
 * for quick questions, the rest evenly among the workers, at least one each.
 */
export function connectionShares(options: DatabaseOptions, workers = 1): Shares {
  const { connections = 10, timeLimit = 0 } = options;
  const behind = Math.max(1, Math.floor(connections / 5));
  const each = Math.max(1, Math.floor((connections - behind - 1) / workers));
  return {
    workers: { ...options, connections: each },
    quick: { ...options, connections: 1 },
    background: {
      ...options,
      connections: behind,
      timeLimit: Math.max(backgroundLimit, timeLimit),
      // What waits here keeps nobody waiting.
      waitLimit: backgroundLimit,
    },
  };
}
