/** Trouble on demand, for developers: what is slow or fails can be looked at. */
export interface Simulation {
  /** Ms before each answer. */
  readonly delay?: number;
  /** The share of requests that fail, from 0 to 1. */
  readonly fail?: number;
}

/** Ms that an answer is held back at most. */
const longest = 60_000;

/**
 * Reads `delay=800ms,fail=5%`: either part, in any order; a delay in ms or s. The empty text says that
 * there is no trouble. Undefined for anything else.
 */
export function readSimulation(text: string): Simulation | undefined {
  if (text.trim() === '') return {};
  let simulation: Simulation = {};
  for (const part of text.split(',')) {
    const delay = /^\s*delay=(\d+(?:\.\d+)?)(ms|s)\s*$/.exec(part);
    const fail = /^\s*fail=(\d+(?:\.\d+)?)%\s*$/.exec(part);
    if (delay !== null && simulation.delay === undefined) {
      const ms = Number(delay[1]) * (delay[2] === 's' ? 1_000 : 1);
      if (ms > longest) return undefined;
      simulation = { ...simulation, delay: ms };
    } else if (fail !== null && simulation.fail === undefined) {
      const share = Number(fail[1]) / 100;
      if (share > 1) return undefined;
      simulation = { ...simulation, fail: share };
    } else return undefined;
  }
  return simulation;
}

export function printSimulation({ delay, fail }: Simulation): string {
  return [
    ...(delay === undefined ? [] : [`delay=${delay}ms`]),
    ...(fail === undefined ? [] : [`fail=${Number((fail * 100).toFixed(4))}%`]),
  ].join(',');
}
