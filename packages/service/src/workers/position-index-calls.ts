import type { Statement } from '@ephoros/core/sql';
import type {
  Counting,
  GroupPlace,
  IndexedOrder,
  LongAnswer,
  PlaceQuestion,
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
    total: ([counting, kind, patience], signal) =>
      positions.total(counting as Counting, kind as 'exact', patience as number, signal),
    places: ([asked, patience], signal) =>
      positions.places(asked as PlaceQuestion, patience as number, signal),
    begin: ([order]) => positions.begin(order as IndexedOrder),
    beginGroups: ([order, values]) =>
      positions.beginGroups(order as IndexedOrder, values as GroupPlace['values']),
    lose: ([key, keys, offset]) => positions.lose(key as string, keys as Lose[1], offset as number),
    mark: ([written]) => positions.mark(written as Statement),
    overview: ([key, count]) => positions.overview(key as string, count as number),
    forget: () => positions.forget(),
    longAnswer: ([statement, asked], signal) =>
      positions
        .longAnswer(statement as Statement, asked as Long[1], signal)
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
    total: (counting, kind, patience, signal) =>
      call('total', [counting, kind, patience], signal) as ReturnType<PositionIndex['total']>,
    places: async (asked, patience = 0, signal) =>
      ((await call('places', [asked, patience], signal)) as
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
    longAnswer: async (statement, asked, signal) => {
      const sent = (await call('longAnswer', [statement, asked], signal)) as Sent | undefined;
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
