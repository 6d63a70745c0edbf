import type { Counting, Surveying, Surveyor } from '../survey/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** A surveyor's methods, as another process calls them. */
export function surveyorMethods(surveyor: Surveyor): Methods {
  return {
    total: ([counting, kind, patience], signal) =>
      surveyor.total(counting as Counting, kind as 'exact', patience as number, signal),
    places: ([key, countKey, offset]) =>
      surveyor.places(key as string, countKey as string, offset as number),
    begin: ([surveying]) => surveyor.begin(surveying as Surveying),
    overview: ([key, count]) => surveyor.overview(key as string, count as number),
  };
}

/** The surveyor of another process, at the other end of a channel. */
export function distantSurveyor(channel: Channel): Surveyor {
  const call = caller(channel);
  return {
    total: (counting, kind, patience, signal) =>
      call('total', [counting, kind, patience], signal) as ReturnType<Surveyor['total']>,
    places: async (...args) =>
      ((await call('places', args)) as Awaited<ReturnType<Surveyor['places']>> | undefined) ?? {
        surveyed: true,
      },
    begin: async (...args) => {
      await call('begin', args);
    },
    overview: (...args) => call('overview', args) as ReturnType<Surveyor['overview']>,
    close: () => Promise.resolve(),
  };
}
