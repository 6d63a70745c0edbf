import type { Statement } from '@ephoros/core/sql';
import type {
  Counting,
  GroupPlace,
  IndexedOrder,
  LongAnswer,
  PositionQuery,
  PositionIndex,
} from '../positions/index.ts';
import { Failure, type FailureKind } from '../run/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

type Lose = Parameters<PositionIndex['lose']>;
type Long = Parameters<PositionIndex['longAnswer']>;

/** A long answer as it goes over the channel, on which nothing is thrown. */
type Sent = LongAnswer | { readonly failed: FailureKind; readonly message: string };

/** The methods of a position index, as another process calls them. */
export function positionIndexMethods(positions: PositionIndex): Methods {
  return {
    total: ([counting, kind, waitLimit], signal) =>
      positions.total(counting as Counting, kind as 'exact', waitLimit as number, signal),
    places: ([wanted, longestWait], signal) =>
      positions.places(wanted as PositionQuery, longestWait as number, signal),
    begin: ([order]) => positions.begin(order as IndexedOrder),
    beginGroups: ([order, values]) =>
      positions.beginGroups(order as IndexedOrder, values as GroupPlace['values']),
    lose: ([key, keys, offset]) => positions.lose(key as string, keys as Lose[1], offset as number),
    mark: ([written]) => positions.mark(written as Statement),
    overview: ([key, count]) => positions.overview(key as string, count as number),
    forget: () => positions.forget(),
    longAnswer: ([statement, request], signal) =>
      positions
        .longAnswer(statement as Statement, request as Long[1], signal)
        .catch((thrown: unknown): Sent => {
          const { kind, cause } = Failure.from(thrown);
          const { message } = (cause ?? {}) as { message?: unknown };
          return { failed: kind, message: typeof message === 'string' ? message : '' };
        }),
  };
}

/** The position index of another process, at the other end of a channel. */
export function remotePositionIndex(channel: Channel): PositionIndex {
  const call = caller(channel);
  return {
    total: (counting, kind, waitLimit, signal) =>
      call('total', [counting, kind, waitLimit], signal) as ReturnType<PositionIndex['total']>,
    places: async (wanted, longestWait = 0, signal) =>
      ((await call('places', [wanted, longestWait], signal)) as
        Awaited<ReturnType<PositionIndex['places']>> | undefined) ?? {
        indexed: true,
      },
    begin: (...args) => call('begin', args) as ReturnType<PositionIndex['begin']>,
    beginGroups: async (...args) => {
      await call('beginGroups', args);
    },
    lose: async (...args) => {
      await call('lose', args);
    },
    overview: (...args) => call('overview', args) as ReturnType<PositionIndex['overview']>,
    mark: (...args) => call('mark', args) as ReturnType<PositionIndex['mark']>,
    longAnswer: async (statement, request, signal) => {
      const sent = (await call('longAnswer', [statement, request], signal)) as Sent | undefined;
      if (sent === undefined) throw new Failure('unknown');
      if ('failed' in sent) throw new Failure(sent.failed, new Error(sent.message));
      return sent;
    },
    forget: async () => {
      await call('forget', []);
    },
    close: () => Promise.resolve(),
  };
}
