import { readPlan, type Statement } from '@ephoros/core/sql';
import { Shared, type Database } from '../run/index.ts';
import type { Changes } from './changes.ts';
import type { Counting, KnownTotal } from './question.ts';

/** Counts that took longer, in ms, are remembered; quicker ones are made anew each time. */
const worthKeeping = 25;
/** A remembered count is good for so many times as long as it took. */
const goodFor = 50;
/** How long the planner's guess is good, in ms. */
const guessGoodFor = 5_000;
/** Costs of PostgreSQL's planner that are hardly got through within a millisecond. */
const costPerMillisecond = 500;
/** Results remembered at most. */
const most = 1_000;

interface Counted {
  readonly rows: number;
  readonly at: number;
  /** In ms. */
  readonly took: number;
  readonly changes: number | undefined;
}

interface Guess {
  readonly rows: number;
  readonly cost: number;
  readonly at: number;
}

interface Entry {
  /** When somebody last asked for it. */
  asked: number;
  /** Aborts the count that is under way. */
  counting?: AbortController | undefined;
  /** Who waits for that count, and whether somebody went off with an estimate instead. */
  waiting: number;
  wanted: boolean;
  counted?: Counted;
  guess?: Guess;
}

/** The numbers of rows of results, counted once for all who ask. */
export class Totals {
  private readonly database: Database;
  private readonly quick: Database;
  private readonly changes: Changes;
  private readonly now: () => number;
  private readonly counts = new Shared<Counted>();
  // In the order in which they were last asked for.
  private readonly entries = new Map<string, Entry>();

  constructor(database: Database, quick: Database, changes: Changes, now: () => number) {
    this.database = database;
    this.quick = quick;
    this.changes = changes;
    this.now = now;
  }

  /** See `Surveyor.total`. */
  async total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    patience: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined> {
    const entry = this.entryOf(counting.key);
    const { counted } = entry;
    if (counted !== undefined && (await this.isGood(counted, counting.written))) {
      return { rows: counted.rows, kind: 'exact', countedAt: counted.at };
    }
    if (kind === 'exact') {
      const quick = counted !== undefined && counted.took < patience / 2;
      const guess = quick ? undefined : await this.guess(counting, entry);
      const hopeless = (guess?.cost ?? 0) / costPerMillisecond > patience;
      const count = this.count(counting, entry);
      const rows = await this.wait(entry, count, hopeless ? 0 : patience, signal);
      if (rows !== undefined) return { rows, kind: 'exact' };
    }
    // What was counted once is nearer than what the planner guesses.
    if (counted !== undefined) return { rows: counted.rows, kind: 'estimate' };
    const guess = await this.guess(counting, entry);
    return guess === undefined ? undefined : { rows: guess.rows, kind: 'estimate' };
  }

  /** The number of rows as it was last counted, however long ago. */
  last(key: string): number | undefined {
    return this.entries.get(key)?.counted?.rows;
  }

  /** Takes in what was counted elsewhere. */
  learn(key: string, counted: Counted): void {
    this.entryOf(key).counted = counted;
  }

  /** Waits for a count; it is given up when all who waited for it have gone away. */
  private async wait(
    entry: Entry,
    count: Promise<number | undefined>,
    patience: number,
    signal: AbortSignal | undefined,
  ): Promise<number | undefined> {
    entry.waiting += 1;
    try {
      return await within(patience, count, signal);
    } finally {
      entry.waiting -= 1;
      if (signal?.aborted !== true) entry.wanted = true;
      else if (entry.waiting === 0 && !entry.wanted) entry.counting?.abort();
    }
  }

  /** Gives up the counts that nobody has asked for since so many ms. */
  abandon(interest: number): void {
    for (const { counting, asked } of this.entries.values()) {
      if (this.now() - asked >= interest) counting?.abort();
    }
  }

  private entryOf(key: string): Entry {
    const entry: Entry = this.entries.get(key) ?? { asked: 0, waiting: 0, wanted: false };
    entry.asked = this.now();
    this.entries.delete(key);
    this.entries.set(key, entry);
    for (const oldest of this.entries.keys()) {
      if (this.entries.size <= most) break;
      this.entries.delete(oldest);
    }
    return entry;
  }

  /** Whether a count still stands: it is recent for what it cost, or nothing was written since. */
  private async isGood({ at, took, changes }: Counted, written: Statement): Promise<boolean> {
    if (took < worthKeeping) return false;
    if (this.now() - at < took * goodFor) return true;
    return changes !== undefined && changes === (await this.changes.read(written));
  }

  /** Counts, unless that is under way; undefined where it fails. */
  private async count(counting: Counting, entry: Entry): Promise<number | undefined> {
    const controller = (entry.counting ??= new AbortController());
    const work = async (signal: AbortSignal): Promise<Counted> => {
      const changes = await this.changes.read(counting.written);
      const { rows, ran } = await this.database.run(counting.count, { signal });
      return { rows: Number(rows[0]?.[0]), at: this.now(), took: ran, changes };
    };
    try {
      entry.counted = await this.counts.join(counting.key, work, controller.signal);
      return entry.counted.rows;
    } catch {
      return undefined;
    } finally {
      if (entry.counting === controller) {
        entry.counting = undefined;
        entry.wanted = false;
      }
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

/** What a promise gives within a time, in ms; undefined where it takes longer, or is not wanted. */
function within<Result>(
  milliseconds: number,
  promise: Promise<Result>,
  signal: AbortSignal | undefined,
): Promise<Result | undefined> {
  return new Promise((resolve) => {
    const give = (result?: Result): void => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', leave);
      resolve(result);
    };
    const leave = (): void => give();
    const timer = setTimeout(leave, milliseconds);
    signal?.addEventListener('abort', leave, { once: true });
    if (signal?.aborted === true) leave();
    promise.then(give, leave);
  });
}
