import type { DatabaseOptions } from './database.ts';

/** Times as long as a long answer that a pass over a whole result may take: nobody waits for its end alone. */
const passesLonger = 10;

/** A count or a pass over a large table takes longer than a window may; in ms. */
export const usualLongLimit = 120_000;

interface Shares {
  readonly workers: DatabaseOptions;
  /** For counts and answers that take long. */
  readonly background: DatabaseOptions;
  /** For passes over whole results. Undefined where connections are few: they go with the counts then. */
  readonly passes: DatabaseOptions | undefined;
  /** For what the planner and the statistics say, which must not wait behind those. */
  readonly quick: DatabaseOptions;
}

/**
 * Parts a budget of connections: a fifth, at least one, for what takes long, and from ten on as many for
 * passes over whole results; one for quick questions, the rest evenly among the workers, at least one
 * each.
 * @param longLimit ms that a statement in the background may take
 */
export function connectionShares(
  options: DatabaseOptions,
  workers = 1,
  longLimit = usualLongLimit,
): Shares {
  const { connections = 10, timeLimit = 0 } = options;
  const behind = Math.max(1, Math.floor(connections / 5));
  const passing = connections < 10 ? 0 : behind;
  const each = Math.max(1, Math.floor((connections - behind - passing - 1) / workers));
  const background = {
    ...options,
    connections: behind,
    timeLimit: Math.max(longLimit, timeLimit),
    // What waits here keeps nobody waiting.
    waitLimit: longLimit,
  };
  return {
    workers: { ...options, connections: each },
    quick: { ...options, connections: 1 },
    background,
    passes:
      passing === 0
        ? undefined
        : { ...background, connections: passing, timeLimit: background.timeLimit * passesLonger },
  };
}
