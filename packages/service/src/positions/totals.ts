import { readPlan, type Statement } from '@ephoros/core/sql';
import { inTime, type Database } from '../run/index.ts';
import { LRUCache } from 'lru-cache';
import { isUnchanged, type Changes, type Written } from './changes.ts';
import type { Counting, KnownTotal } from './position-index.ts';

/** Counts that took longer, in ms, are remembered; quicker ones are made again each time. */
const worthCaching = 25;
/** A remembered count is good for so many times as long as it took. */
const goodFor = 50;
/** How long the planner's guess is good, in ms. */
const guessGoodFor = 5_000;
/** Costs of PostgreSQL's planner that are hardly got through within a millisecond. */
const costPerMillisecond = 500;
/** Results remembered at most, and characters of the statements that name them. */
const most = 1_000;
const mostCharacters = 16 * 1024 * 1024;

interface Counted {
  readonly rows: number;
  readonly at: number;
  /** In ms. */
  readonly took: number;
  readonly changes: Written | undefined;
}

interface Guess {
  readonly rows: number;
  readonly cost: number;
  readonly at: number;
}

/** A count under way. */
interface Running {
  readonly controller: AbortController;
  /** Undefined where it fails. */
  readonly rows: Promise<number | undefined>;
  /** How many have requested it and have not gone away unanswered since. */
  wanted: number;
  /** How many wait for it right now. */
  waiting: number;
}

interface Entry {
  /** When somebody last requested it. */
  startedAt: number;
  /** Asks how much has been written to the tables that are counted. */
  readonly written: Statement;
  running?: Running | undefined;
  counted?: Counted;
  guess?: Guess;
}

/** The numbers of rows of results, counted once for all who ask. */
export class Totals {
  private readonly database: Database;
  private readonly quick: Database;
  private readonly changes: Changes;
  private readonly now: () => number;
  private readonly entries = new LRUCache<string, Entry>({
    max: most,
    maxSize: mostCharacters,
    sizeCalculation: (_entry, key) => key.length + 200,
    dispose: ({ running }) => running?.controller.abort(),
    noDisposeOnSet: true,
  });

  constructor(database: Database, quick: Database, changes: Changes, now: () => number) {
    this.database = database;
    this.quick = quick;
    this.changes = changes;
    this.now = now;
  }

  /** See `PositionIndex.total`. */
  async total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    waitLimit: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined> {
    const entry = this.entryOf(counting.key, counting.written);
    const { counted } = entry;
    const state = counted && (await this.stateOf(counted, counting.written, waitLimit));
    if (counted !== undefined && state === 'good') {
      return { rows: counted.rows, kind: 'exact', countedAt: counted.at };
    }
    const quick = counted !== undefined && counted.took < waitLimit / 2;
    // What takes long is not counted again for every row that somebody writes.
    if (kind === 'exact' && (quick || state !== 'young')) {
      const guess = quick ? undefined : await this.guess(counting, entry);
      const hopeless = (guess?.cost ?? 0) / costPerMillisecond > waitLimit;
      const running = this.count(counting, entry);
      const rows = await wait(running, hopeless ? 0 : waitLimit, signal);
      if (rows !== undefined) return { rows, kind: 'exact' };
    }
    // What was counted once is nearer than what the planner guesses, unless all is different now.
    if (counted !== undefined && state !== 'useless') {
      return { rows: counted.rows, kind: 'estimate', countedAt: counted.at };
    }
    const guess = await this.guess(counting, entry);
    return guess === undefined ? undefined : { rows: guess.rows, kind: 'estimate' };
  }

  /** The number of rows as it was last counted, where nothing was written since. */
  async last(key: string): Promise<number | undefined> {
    const { counted, written } = this.entries.peek(key) ?? {};
    if (counted === undefined || written === undefined) return undefined;
    const now = await this.changes.read(written);
    return isUnchanged(counted.changes, now) ? counted.rows : undefined;
  }

  /** Takes in what was counted elsewhere. */
  learn({ key, written }: Counting, counted: Counted): void {
    const entry = this.entryOf(key, written);
    entry.counted = counted;
  }

  /** Gives up a count: the rows are being counted in another way. */
  abandonOne(key: string): void {
    this.entries.peek(key)?.running?.controller.abort();
  }

  /** Gives up the counts that nobody has requested since so many ms. */
  abandon(interest: number): void {
    for (const { running, startedAt } of this.entries.values()) {
      if (running === undefined || running.waiting > 0) continue;
      if (this.now() - startedAt >= interest) running.controller.abort();
    }
  }

  private entryOf(key: string, written: Statement): Entry {
    const known = this.entries.get(key);
    if (known !== undefined) {
      known.startedAt = this.now();
      return known;
    }
    const entry: Entry = { startedAt: this.now(), written };
    this.entries.set(key, entry);
    return entry;
  }

  /**
   * What a count is worth by now. `good`: nothing was written since, or it is recent and nobody can
   * tell. `young`: something was, but it was made a short while ago for what it cost. `useless`:
   * the rows are others. What is counted again within the wait limit of the caller is `old`.
   */
  private async stateOf(
    { at, took, changes }: Counted,
    written: Statement,
    waitLimit: number,
  ): Promise<'good' | 'young' | 'old' | 'useless'> {
    if (took < Math.min(worthCaching, waitLimit)) return 'old';
    const young = this.now() - at < took * goodFor;
    const now = await this.changes.read(written);
    if (isUnchanged(changes, now)) return 'good';
    if (changes !== undefined && now !== undefined && changes.files !== now.files) return 'useless';
    if (!young) return 'old';
    return now === undefined ? 'good' : 'young';
  }

  /** Counts, unless that is under way. */
  private count(counting: Counting, entry: Entry): Running {
    const { running: known } = entry;
    if (known !== undefined && !known.controller.signal.aborted) return known;
    const controller = new AbortController();
    const rows = this.countOnce(counting, entry, controller.signal).finally(() => {
      if (entry.running === running) entry.running = undefined;
    });
    const running: Running = { controller, rows, wanted: 0, waiting: 0 };
    entry.running = running;
    return running;
  }

  private async countOnce(
    { written, count }: Counting,
    entry: Entry,
    signal: AbortSignal,
  ): Promise<number | undefined> {
    try {
      const changes = await this.changes.read(written);
      const { rows, ran } = await this.database.run(count, { signal });
      entry.counted = { rows: Number(rows[0]?.[0]), at: this.now(), took: ran, changes };
      return entry.counted.rows;
    } catch {
      return undefined;
    }
  }

  private async guess({ estimate }: Counting, entry: Entry): Promise<Guess | undefined> {
    const { guess } = entry;
    if (guess !== undefined && this.now() - guess.at < guessGoodFor) return guess;
    try {
      const { rows } = await this.quick.run(estimate);
      const plan = readPlan(rows[0]?.[0]);
      if (plan === undefined) return undefined;
      const { 'Plan Rows': guessed, 'Total Cost': cost } = plan;
      entry.guess = { rows: guessed, cost, at: this.now() };
      return entry.guess;
    } catch {
      return undefined;
    }
  }
}

/**
 * Waits for a count. Anyone who goes away before its answer is whole, be it after this, wants it no
 * more; a count that nobody wants is given up.
 */
function wait(
  running: Running,
  waitLimit: number,
  signal: AbortSignal | undefined,
): Promise<number | undefined> {
  running.wanted += 1;
  const leave = (): void => {
    running.wanted -= 1;
    if (running.wanted === 0) running.controller.abort();
  };
  if (signal?.aborted === true) leave();
  else signal?.addEventListener('abort', leave, { once: true });
  running.waiting += 1;
  // A count that failed is not known.
  return inTime(
    waitLimit,
    running.rows.catch(() => undefined),
    signal,
  ).finally(() => {
    running.waiting -= 1;
  });
}
