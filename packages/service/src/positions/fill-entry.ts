import { alongOf } from './along.ts';
import type { IndexEntry } from './index-entry.ts';
import { UnfitPlaces, type Maker } from './making.ts';
import type { CostModel } from './cost-model.ts';
import { Places } from './places.ts';
import type { IndexedOrder, MakingWay, PlaceStatements } from './position-index.ts';
import { Samples } from './samples.ts';

/** With fewer mileposts than that, where the number of rows was guessed, every row becomes one. */
const fewSamples = 20;

/** What entries are filled with, and within which bounds. */
export interface Filling {
  readonly maker: Maker;
  readonly costModel: CostModel;
  /** Bytes of mileposts and of places of one entry at most, and the folder of the latter. */
  readonly memory: number;
  readonly bytes: number;
  readonly folder: string;
  /** The clock, in ms since 1970. */
  readonly now: () => number;
  /** Makes room for the places of an entry. */
  readonly makeRoom: (entry: IndexEntry) => void;
  /** The entry of another order, whose mileposts are set as they are needed. */
  readonly orderOf: (query: IndexedOrder) => IndexEntry;
  /** Says that an entry is requested. */
  readonly touch: (entry: IndexEntry) => void;
  /** Gives up the count of an entry's rows: they are being counted in another way. */
  readonly uncount: (entry: IndexEntry) => void;
}

/** Finds the rows of an entry; what comes is used at once. Gives the number of all rows. @throws UnfitPlaces */
export async function fillEntry(
  entry: IndexEntry,
  way: MakingWay,
  signal: AbortSignal,
  filling: Filling,
): Promise<number | undefined> {
  const { query } = entry;
  if (way === 'mileposts' || query.places === undefined) {
    const { maker, memory } = filling;
    const notify = (): void => entry.changeSignal.ring();
    const set = (samples: Samples, order: IndexedOrder): Promise<number | undefined> =>
      maker.setMileposts(order, samples, memory, { signal, notify });
    let samples = entry.beginSamples(new Samples(query.step));
    let total = await set(samples, query);
    const { fine, step } = query;
    if (fine !== undefined && total !== undefined && total < step * fewSamples) {
      samples = new Samples(1);
      total = await set(samples, { ...query, step: 1, mileposts: { pass: fine } });
    }
    entry.samples = samples;
    return total;
  }
  const { places: statements } = query;
  const places = await UnfitPlaces.unless(Places.create(filling.folder, statements.kinds));
  try {
    filling.makeRoom(entry);
    const find = way === 'sort' ? sorted : scanned;
    await find(entry, statements, places, signal, filling);
  } catch (thrown) {
    if (entry.places !== places) await places.close();
    throw thrown;
  }
  await entry.takePlaces(places);
  return places.count;
}

/** By one sort of all keys. */
async function sorted(
  entry: IndexEntry,
  statements: PlaceStatements,
  places: Places,
  signal: AbortSignal,
  { maker, costModel, bytes, now }: Filling,
): Promise<void> {
  const cost = await maker.costOf(statements.sort, signal);
  entry.expected = costModel.expect(cost);
  entry.beginPlaces(places);
  const notify = (): void => entry.changeSignal.ring();
  await maker.sortPlaces(statements, places, bytes, { signal, notify });
  costModel.learn(cost, now() - entry.begun);
}

/** Chunk by chunk along the same order without the condition. */
async function scanned(
  entry: IndexEntry,
  statements: PlaceStatements,
  places: Places,
  signal: AbortSignal,
  { maker, bytes, orderOf, touch, uncount }: Filling,
): Promise<void> {
  if (statements.chunks === undefined) throw new Error('nothing to scan along');
  const order = orderOf(statements.chunks.along);
  entry.along = order;
  uncount(entry);
  entry.beginPlaces(places);
  await maker.scanPlaces(
    statements,
    alongOf(order, () => touch(order)),
    places,
    bytes,
    {
      signal,
      notify: () => entry.changeSignal.ring(),
      scanned: (rows) => {
        entry.scanned = rows;
      },
    },
  );
}
