import type { Left, RateCounters } from '../http/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** Requests of callers, or sign-ins that failed. */
type RateKind = 'Rate' | 'Attempt';

/** The methods of counts, as another process calls them. */
export function rateCounterMethods(progressStore: RateCounters, kind: RateKind = 'Rate'): Methods {
  return {
    [`take${kind}`]: ([name]) => progressStore.take(name as string),
    [`spend${kind}`]: ([name, rows, milliseconds]) => {
      progressStore.spend(name as string, rows as number, milliseconds as number);
      return Promise.resolve();
    },
  };
}

/** The counts of another process, at the other end of a channel. */
export function remoteRateCounters(channel: Channel, kind: RateKind = 'Rate'): RateCounters {
  const call = caller(channel);
  return {
    take: async (name) =>
      ((await call(`take${kind}`, [name])) as readonly Left[] | undefined) ?? [],
    spend: (...spent) => void call(`spend${kind}`, spent),
  };
}
