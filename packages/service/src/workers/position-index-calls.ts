import type { Statement } from '@ephoros/core/sql';
import type { Counting, IndexedOrder, PositionIndex } from '../positions/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** The methods of a position index, as another process calls them. */
export function positionIndexMethods(positions: PositionIndex): Methods {
  return {
    total: ([counting, kind, patience], signal) =>
      positions.total(counting as Counting, kind as 'exact', patience as number, signal),
    places: ([key, countKey, offset]) =>
      positions.places(key as string, countKey as string, offset as number),
    begin: ([order]) => positions.begin(order as IndexedOrder),
    mark: ([written]) => positions.mark(written as Statement),
    overview: ([key, count]) => positions.overview(key as string, count as number),
  };
}

/** The position index of another process, at the other end of a channel. */
export function remotePositionIndex(channel: Channel): PositionIndex {
  const call = caller(channel);
  return {
    total: (counting, kind, patience, signal) =>
      call('total', [counting, kind, patience], signal) as ReturnType<PositionIndex['total']>,
    places: async (...args) =>
      ((await call('places', args)) as
        Awaited<ReturnType<PositionIndex['places']>> | undefined) ?? {
        indexed: true,
      },
    begin: async (...args) => {
      await call('begin', args);
    },
    overview: (...args) => call('overview', args) as ReturnType<PositionIndex['overview']>,
    mark: (...args) => call('mark', args) as ReturnType<PositionIndex['mark']>,
    close: () => Promise.resolve(),
  };
}
