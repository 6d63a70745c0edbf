import type { DatabaseOptions } from './database.ts';

/** A count or a survey of a large table takes longer than a window may; in ms. */
const backgroundLimit = 120_000;

/**
 * Parts a budget of connections: a fifth, at least one, for what is done in the background, the
 * rest evenly among the workers, at least one each.
 */
export function connectionShares(
  options: DatabaseOptions,
  workers = 1,
): { readonly workers: DatabaseOptions; readonly background: DatabaseOptions } {
  const { connections = 10, timeLimit = 0 } = options;
  const behind = Math.max(1, Math.floor(connections / 5));
  const each = Math.max(1, Math.floor((connections - behind) / workers));
  return {
    workers: { ...options, connections: each },
    background: {
      ...options,
      connections: behind,
      timeLimit: Math.max(backgroundLimit, timeLimit),
      // What waits here keeps nobody waiting.
      waitLimit: backgroundLimit,
    },
  };
}
