import type { Left, RateBoard } from '../http/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** The methods of counts, as another process calls them. */
export function rateBoardMethods(board: RateBoard): Methods {
  return {
    takeRate: ([name]) => board.take(name as string),
    spendRate: ([name, rows, milliseconds]) => {
      board.spend(name as string, rows as number, milliseconds as number);
      return Promise.resolve();
    },
  };
}

/** The counts of another process, at the other end of a channel. */
export function remoteRateBoard(channel: Channel): RateBoard {
  const call = caller(channel);
  return {
    take: async (name) => ((await call('takeRate', [name])) as readonly Left[] | undefined) ?? [],
    spend: (...spent) => void call('spendRate', spent),
  };
}
