import type { Left, RateBoard } from '../http/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** Requests of callers, or sign-ins that failed. */
type RateKind = 'Rate' | 'Attempt';

/** The methods of counts, as another process calls them. */
export function rateBoardMethods(board: RateBoard, kind: RateKind = 'Rate'): Methods {
  return {
    [`take${kind}`]: ([name]) => board.take(name as string),
    [`spend${kind}`]: ([name, rows, milliseconds]) => {
      board.spend(name as string, rows as number, milliseconds as number);
      return Promise.resolve();
    },
  };
}

/** The counts of another process, at the other end of a channel. */
export function remoteRateBoard(channel: Channel, kind: RateKind = 'Rate'): RateBoard {
  const call = caller(channel);
  return {
    take: async (name) =>
      ((await call(`take${kind}`, [name])) as readonly Left[] | undefined) ?? [],
    spend: (...spent) => void call(`spend${kind}`, spent),
  };
}
