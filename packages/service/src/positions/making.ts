import {
  compilePlan,
  readPlan,
  chunkBetween,
  stepsFrom,
  type PlanNode,
  type Statement,
} from '@ephoros/core/sql';
import { Failure, type Database } from '../run/index.ts';
import { CopiedKeys } from './copied-keys.ts';
import type { IndexedOrder, MakingWay, PlaceStatements } from './position-index.ts';
import type { KeyList, Places } from './places.ts';
import type { Samples } from './samples.ts';

/** Times that a look through all rows costs as much as a window that is too costly, to be cut into chunks. */
const worthChunks = 4;

/** Rows between two calls of `told`. */
const often = 4_096;

interface Making {
  readonly signal: AbortSignal;
  /** Called whenever more is there. */
  readonly notify: () => void;
}

/** An order along which chunks are cut, as far as its mileposts are set. */
export interface Along {
  readonly state: () => {
    readonly samples: Samples;
    readonly complete: boolean;
    readonly failed: boolean;
  };
  /** Resolves when there may be more. */
  readonly changed: (signal: AbortSignal) => Promise<void>;
}

/** What has no room, such as keys beyond all bounds: places serve no such result. */
export class UnfitPlaces extends Error {
  override name = 'UnfitPlaces';

  constructor(cause?: unknown) {
    super('there is no room for the places of this result', { cause });
  }

  /** Waits for files; what keeps them from taking more is want of room, whatever it is. @throws UnfitPlaces */
  static async unless<Result>(stored: Promise<Result>): Promise<Result> {
    try {
      return await stored;
    } catch (thrown) {
      throw new UnfitPlaces(thrown);
    }
  }
}

/** Makes mileposts and places. */
export class Maker {
  private readonly passes: Database;
  private readonly quick: Database;
  private readonly costly: number;

  /**
   * @param passes for what goes over whole results, which takes long
   * @param quick for what the planner says
   * @param costly costs of the planner from which on a window is not read by walking to it
   */
  constructor(passes: Database, quick: Database, costly: number) {
    this.passes = passes;
    this.quick = quick;
    this.costly = costly;
  }

  /**
   * The way for an order: mileposts where an index gives it, so that walking to a row costs little; chunks where
   * one gives it without the condition, which no index answers; else one sort.
   */
  async wayOf(
    { first, places, counting, slow = false, grouped }: IndexedOrder,
    signal: AbortSignal,
  ): Promise<MakingWay> {
    if (places === undefined) return 'mileposts';
    if (grouped === true) return 'sort';
    const { chunks } = places;
    const [cost, scan, along, all] = await Promise.all([
      this.costOf(first, signal),
      ...(chunks === undefined
        ? []
        : [
            this.costIn(counting.estimate, signal),
            this.costOf(chunks.along.first, signal),
            this.costIn(chunks.along.counting.estimate, signal),
          ]),
    ]);
    const { costly } = this;
    const isCostly = cost >= costly;
    // What an index answers is found sooner by that than by looking through all rows.
    const scans =
      scan !== undefined && all !== undefined && scan > costly * worthChunks && scan > all / 2;
    if (scans && along !== undefined && along < costly && (isCostly || slow)) return 'slices';
    return isCostly ? 'sort' : 'mileposts';
  }

  /** What a statement costs, as the planner guesses; nothing where it cannot tell. */
  async costOf(statement: Statement, signal: AbortSignal): Promise<number> {
    return (await this.plan(statement, signal))?.['Total Cost'] ?? 0;
  }

  /** The same of a statement that asks for a plan itself. */
  private async costIn(plan: Statement, signal: AbortSignal): Promise<number> {
    const { rows } = await this.quick.run(plan, { signal });
    return readPlan(rows[0]?.[0])?.['Total Cost'] ?? 0;
  }

  /** One walk over a whole result, or from post to post; gives the number of all rows. */
  async setMileposts(
    query: IndexedOrder,
    samples: Samples,
    most: number,
    { signal, notify }: Making,
  ): Promise<number | undefined> {
    const { step } = query;
    let total: number | undefined;
    for await (const statement of this.cheapest(query, () => total ?? 0, signal)) {
      const before = total ?? 0;
      await this.passes.stream(
        statement,
        (row) => {
          const number = Number(row.at(-1));
          // The last row has the number of all; it is no sample, or the last sample once more.
          if (number % step === 0 && number !== total && number > before) {
            samples.add({ number, values: row.slice(0, -1) });
            // Samples of long values stand further apart.
            if (samples.bytes > most) samples.thin();
          }
          total = number;
          notify();
        },
        { signal },
      );
    }
    return total;
  }

  /** One sort of all keys. @throws UnfitPlaces */
  async sortPlaces(
    { sort, copy }: PlaceStatements,
    places: Places,
    most: number,
    { signal, notify }: Making,
  ): Promise<void> {
    if (copy !== undefined) {
      const keys = new CopiedKeys(places.kinds);
      const take = (piece: Buffer): Promise<void> | undefined => {
        const entries = keys.read(piece);
        if (entries === undefined) throw new UnfitPlaces();
        places.addEntries(entries);
        if (places.bytes > most) throw new UnfitPlaces();
        notify();
        return places.drained();
      };
      await this.passes.copy(copy, take, { signal });
      if (signal.aborted) throw new Failure('cancelled');
      // A row with a null is shorter than others.
      if (!keys.isEnded) throw new UnfitPlaces();
      await UnfitPlaces.unless(places.seal());
      return;
    }
    const unfit = new AbortController();
    const own = AbortSignal.any([signal, unfit.signal]);
    let passed = 0;
    const stream = this.passes.stream(
      sort,
      (row) => {
        if (unfit.signal.aborted) return;
        if (!places.add(row) || places.bytes > most) unfit.abort();
        passed += 1;
        if (passed % often === 0) notify();
      },
      { signal: own },
    );
    await stream.catch((thrown: unknown) => {
      if (!unfit.signal.aborted || signal.aborted) throw thrown;
    });
    // It may have come to its end before it was cancelled.
    if (unfit.signal.aborted) throw new UnfitPlaces();
    await UnfitPlaces.unless(places.seal());
  }

  /**
   * Chunk by chunk along an order, two at a time, each as many rows as are looked through within a
   * fifth of a second. `scanned` is called with the number of rows scanned so far. @throws UnfitPlaces
   */
  async scanPlaces(
    { chunks }: PlaceStatements,
    along: Along,
    places: Places,
    most: number,
    { signal, notify, scanned }: Making & { readonly scanned: (rows: number) => void },
  ): Promise<void> {
    if (chunks === undefined) throw new Error('nothing to scan along');
    const { templates } = chunks;
    let rows = firstChunk;
    let from: { readonly number: number; readonly values: readonly (string | null)[] } | undefined;
    let ended = false;
    const underWay: Promise<Chunk>[] = [];
    const own = new AbortController();
    const until = AbortSignal.any([signal, own.signal]);
    try {
      while (!ended || underWay.length > 0) {
        while (!ended && underWay.length < atOnce) {
          const begin = from?.number ?? 0;
          const { samples, complete, failed } = along.state();
          const to = samples.before(begin + Math.max(rows, samples.step));
          const next = to !== undefined && to.number > begin ? to : undefined;
          if (next === undefined && !complete) {
            if (failed) throw new Error('nothing to scan along');
            if (underWay.length > 0) break;
            await along.changed(until);
            if (until.aborted) throw new Failure('cancelled');
            continue;
          }
          // With less than a chunk left there may be posts on the way, or none.
          const last = next ?? nearest(samples, begin);
          const statements = chunkBetween(templates, from?.values, last?.values);
          const chunk = this.chunk(statements, places.list(), {
            ...{ begin, end: last, signal: until },
          });
          chunk.catch(() => undefined);
          underWay.push(chunk);
          if (last === undefined) ended = true;
          else from = last;
        }
        const part = await underWay.shift();
        if (part === undefined) continue;
        if (!part.keys.fits) throw new UnfitPlaces();
        places.addEntries(part.keys.entries);
        if (places.bytes > most) throw new UnfitPlaces();
        if (part.end !== undefined) {
          places.reach(part.end.values);
          scanned(part.end.number);
          const costModel = (part.end.number - part.begin) / Math.max(1, part.took);
          rows = Math.min(largestChunk, Math.max(firstChunk, Math.round(costModel * wantedTime)));
        }
        notify();
      }
    } finally {
      own.abort();
      await Promise.allSettled(underWay);
    }
    await UnfitPlaces.unless(places.seal());
  }

  private async chunk(
    statements: readonly Statement[],
    keys: KeyList,
    { begin, end, signal }: Pick<Chunk, 'begin' | 'end'> & { readonly signal: AbortSignal },
  ): Promise<Chunk> {
    const startedAt = performance.now();
    for (const statement of statements) {
      await this.passes.stream(statement, (row) => keys.add(row), { signal });
    }
    return { keys, begin, end, took: performance.now() - startedAt };
  }

  /** Of the two ways to set mileposts the one that the planner finds cheaper, statement by statement. */
  private async *cheapest(
    { mileposts, step }: IndexedOrder,
    before: () => number,
    signal: AbortSignal,
  ): AsyncGenerator<Statement> {
    const { pass, steps } = mileposts;
    if (steps === undefined || !(await this.isStepped({ mileposts, step }, signal))) {
      yield pass;
      return;
    }
    for (const one of steps) yield stepsFrom(one, before(), step);
  }

  private async isStepped(
    { mileposts: { pass, steps = [] }, step }: Pick<IndexedOrder, 'mileposts' | 'step'>,
    signal: AbortSignal,
  ): Promise<boolean> {
    const [whole, ...singles] = await Promise.all([
      this.plan(pass, signal),
      ...steps.map(async (one) => firstStep(await this.plan(stepsFrom(one, 0, step), signal))),
    ]);
    const walked = whole === undefined ? undefined : deepest(whole)['Plan Rows'];
    if (whole === undefined || walked === undefined) return false;
    const costs = singles.map((single) => single?.['Total Cost'] ?? Infinity);
    // Estimates of few rows may be wrong by much; a pass is never wrong by much.
    const samples = walked / step;
    return samples > 10 && samples * Math.max(...costs) < whole['Total Cost'];
  }

  private async plan(statement: Statement, signal: AbortSignal): Promise<PlanNode | undefined> {
    const { rows } = await this.quick.run(compilePlan(statement), { signal });
    return readPlan(rows[0]?.[0]);
  }
}

interface Chunk {
  readonly keys: KeyList;
  /** Rows before it, and the post where it ends; undefined at the end of the result. */
  readonly begin: number;
  readonly end:
    { readonly number: number; readonly values: readonly (string | null)[] } | undefined;
  /** Ms. */
  readonly took: number;
}

/** Rows of the first chunk, and of one at most; ms that one shall take; chunks at the same time. */
const firstChunk = 20_000;
const largestChunk = 1_000_000;
const wantedTime = 200;
const atOnce = 2;

/** The last post behind a place, where there is one. */
function nearest(samples: Samples, begin: number): Chunk['end'] {
  const last = samples.before(samples.reach);
  return last !== undefined && last.number > begin ? last : undefined;
}

/** What the first sample costs, in a plan that goes from sample to sample. */
function firstStep(plan: PlanNode | undefined): PlanNode | undefined {
  if (plan === undefined) return undefined;
  if (plan['Node Type'] === 'Recursive Union') return plan.Plans?.[0];
  for (const child of plan.Plans ?? []) {
    const found = firstStep(child);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** The step of a plan that the window function reads from: it knows how many rows there are. */
function deepest(plan: PlanNode): PlanNode {
  const [child] = plan.Plans ?? [];
  if (plan['Node Type'] !== 'WindowAgg' && child !== undefined) return deepest(child);
  return plan;
}
