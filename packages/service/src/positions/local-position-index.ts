import { createHash } from 'node:crypto';
import { compilePlan, readPlan, type PlanNode, type Statement } from '@ephoros/core/sql';
import { Failure, type Database } from '../run/index.ts';
import { LRUCache } from 'lru-cache';
import { Changes, isUnchanged, type Written } from './changes.ts';
import { Samples } from './samples.ts';
import type {
  Counting,
  KnownPlaces,
  KnownTotal,
  IndexedOrder,
  PositionIndex,
  IndexState,
} from './position-index.ts';
import { Totals } from './totals.ts';

export interface PositionIndexOptions {
  /** Bytes of mileposts kept at most, the least recently used dropped; 64 MB by default. */
  readonly memory?: number;
  /** How many results are indexed at the same time; 1 by default. */
  readonly atOnce?: number;
  /** A result that nobody has asked for so long is given up; in ms, 20,000 by default. */
  readonly interest?: number;
  /** The shortest time after which the mileposts of one result are set again; in ms, 30,000 by default. */
  readonly renewAfter?: number;
  /** Those of a table that is written to are set again after this time; 600,000 by default. */
  readonly age?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** The mileposts of one result, as they stand. */
interface Entry {
  readonly question: IndexedOrder;
  /** When somebody last asked for it. */
  asked: number;
  /** The ones in use; being made, where there are no older ones. */
  samples: Samples;
  complete: boolean;
  failed: boolean;
  /** When the last ones were begun, and what had been written to the table by then. */
  begun: number;
  changes: Written | undefined;
  /** Aborts the making that is under way or waits. */
  making: AbortController | undefined;
}

/** Written since, as a share of the rows: past the first it is renewed, past the second useless. */
const renewShare = 0.0005;
const uselessShare = 0.1;
/** Ms after which what nobody asks for any more is forgotten. */
const forgottenAfter = 30 * 60_000;
/** Ms before an entry that failed is tried again. */
const failedFor = 5_000;

/** A position index of this process, with connections of its own. */
export class LocalPositionIndex implements PositionIndex {
  private readonly database: Database;
  private readonly quick: Database;
  private readonly options: Required<PositionIndexOptions>;
  private readonly changes: Changes;
  private readonly totals: Totals;
  /** Each in a box of its own: a new one has its room counted anew. */
  private readonly entries: LRUCache<string, { readonly entry: Entry }>;
  private readonly waiting: Entry[] = [];
  private underWay = 0;
  private readonly sweeper: ReturnType<typeof setInterval>;

  /**
   * Closes both with itself.
   * @param database for counts and passes over whole results, which take long
   * @param quick for what the planner and the statistics say
   */
  constructor(database: Database, quick: Database, options: PositionIndexOptions = {}) {
    this.database = database;
    this.quick = quick;
    this.options = {
      memory: 64 * 1024 * 1024,
      atOnce: 1,
      interest: 20_000,
      renewAfter: 30_000,
      age: 600_000,
      now: () => Date.now(),
      ...options,
    };
    const { now, interest, memory } = this.options;
    this.entries = new LRUCache({
      maxSize: memory,
      ttl: forgottenAfter,
      updateAgeOnGet: true,
      perf: { now },
      sizeCalculation: ({ entry }) => sizeOf(entry),
      dispose: ({ entry }) => this.drop(entry),
      noDisposeOnSet: true,
    });
    this.changes = new Changes(quick, now);
    this.totals = new Totals(database, quick, this.changes, now);
    this.sweeper = setInterval(() => this.sweep(), Math.max(50, interest / 4));
    this.sweeper.unref();
  }

  total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    patience: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined> {
    return this.totals.total(counting, kind, patience, signal);
  }

  async mark(written: Statement): Promise<string | undefined> {
    const read = await this.changes.read(written);
    if (read === undefined) return undefined;
    // How much others write is nobody's business.
    return createHash('sha256').update(`${read.rows} ${read.files}`).digest('base64url');
  }

  async places(key: string, countKey: string, offset: number): Promise<KnownPlaces> {
    const entry = this.touch(key);
    const total = await this.totals.last(countKey);
    if (entry === undefined) return { indexed: false, total };
    await this.renew(entry);
    return { indexed: true, sample: entry.samples.before(offset), total };
  }

  begin(question: IndexedOrder): Promise<void> {
    if (!this.entries.has(question.key)) {
      const entry: Entry = {
        question,
        asked: this.options.now(),
        samples: new Samples(question.step),
        complete: false,
        failed: false,
        begun: 0,
        changes: undefined,
        making: undefined,
      };
      this.entries.set(question.key, { entry });
      this.queue(entry);
    }
    return Promise.resolve();
  }

  async overview(key: string, count: number): Promise<IndexState | undefined> {
    const entry = this.touch(key);
    if (entry === undefined) return undefined;
    await this.renew(entry);
    const { samples, complete, failed } = entry;
    const begun = samples.reach > 0 || !this.waiting.includes(entry);
    const state = complete ? 'ready' : failed ? 'failed' : begun ? 'building' : 'waiting';
    return { state, samples: samples.even(count), passed: samples.reach };
  }

  async close(): Promise<void> {
    clearInterval(this.sweeper);
    this.entries.clear();
    await Promise.all([this.database.close(), this.quick.close()]);
  }

  private touch(key: string): Entry | undefined {
    const entry = this.entries.get(key)?.entry;
    if (entry !== undefined) entry.asked = this.options.now();
    return entry;
  }

  /** Makes an entry anew when it is old or much was written since; forgets a useless one. */
  private async renew(entry: Entry): Promise<void> {
    const { now, renewAfter, age } = this.options;
    if (!this.isIdle(entry)) return;
    const since = now() - entry.begun;
    if (entry.failed) {
      if (since > failedFor) this.queue(entry);
      return;
    }
    if (!entry.complete) return;
    const { question, samples, changes } = entry;
    const found = await this.changes.read(question.written);
    if (isUnchanged(changes, found) || !this.isIdle(entry)) return;
    const known = changes !== undefined && found !== undefined;
    const written = known ? found.rows - changes.rows : undefined;
    const rows = Math.max(1, samples.reach);
    const others = known && found.files !== changes.files;
    if (others || (written !== undefined && written > rows * uselessShare)) {
      entry.samples = new Samples(question.step);
      entry.complete = false;
      this.queue(entry);
    } else if (since < renewAfter) {
      return;
    } else if (written === undefined || written > rows * renewShare || since > age) {
      this.queue(entry);
    }
  }

  /** Whether an entry is still kept, and nothing is done about it. */
  private isIdle(entry: Entry): boolean {
    return entry.making === undefined && this.entries.peek(entry.question.key)?.entry === entry;
  }

  private queue(entry: Entry): void {
    entry.making = new AbortController();
    this.waiting.push(entry);
    this.next();
  }

  private next(): void {
    if (this.underWay >= this.options.atOnce) return;
    const entry = this.waiting.shift();
    if (entry?.making === undefined) return;
    this.underWay += 1;
    void this.make(entry, entry.making.signal).finally(() => {
      entry.making = undefined;
      this.underWay -= 1;
      this.next();
    });
  }

  /** One walk over the whole result; what it finds is used as it comes. */
  private async make(entry: Entry, signal: AbortSignal): Promise<void> {
    const { question } = entry;
    const { counting, step } = question;
    const begun = this.options.now();
    entry.begun = begun;
    entry.failed = false;
    const samples = new Samples(step);
    // Older samples stay in use until the new ones reach the end.
    if (!entry.complete) entry.samples = samples;
    let total: number | undefined;
    try {
      const [changes, counted] = await Promise.all([
        this.changes.read(question.written),
        this.changes.read(counting.written),
      ]);
      const statement = await this.cheapest(question, signal);
      await this.database.stream(
        statement,
        (row) => {
          const number = Number(row.at(-1));
          // The last row tells the number of all; it is no sample, or the last sample once more.
          if (number % step === 0 && number !== total) {
            samples.add({ number, values: row.slice(0, -1) });
            // Samples of long values stand further apart.
            if (samples.bytes > this.options.memory / 2) samples.thin();
          }
          total = number;
        },
        { signal },
      );
      entry.samples = samples;
      entry.changes = changes;
      entry.complete = true;
      this.weigh(entry);
      const took = this.options.now() - begun;
      if (total !== undefined) {
        const at = begun + took;
        this.totals.learn(counting, { rows: total, at, took, changes: counted });
      }
    } catch (thrown) {
      if (!(thrown instanceof Failure) || thrown.kind !== 'cancelled') entry.failed = true;
    }
  }

  /** Of the two ways to set mileposts the one that the planner finds cheaper. */
  private async cheapest(
    { mileposts, step }: IndexedOrder,
    signal: AbortSignal,
  ): Promise<Statement> {
    const { pass, steps } = mileposts;
    if (steps === undefined) return pass;
    const [whole, single] = await Promise.all([
      this.plan(pass, signal),
      this.plan(steps, signal).then(firstStep),
    ]);
    const walked = whole === undefined ? undefined : deepest(whole)['Plan Rows'];
    if (whole === undefined || single === undefined || walked === undefined) return pass;
    // Estimates of few rows may be wrong by much; a pass is never wrong by much.
    const samples = walked / step;
    return samples > 10 && samples * single['Total Cost'] < whole['Total Cost'] ? steps : pass;
  }

  private async plan(statement: Statement, signal: AbortSignal): Promise<PlanNode | undefined> {
    const { rows } = await this.quick.run(compilePlan(statement), { signal });
    return readPlan(rows[0]?.[0]);
  }

  /** Gives up what nobody has asked for lately. */
  private sweep(): void {
    const { now, interest } = this.options;
    this.entries.purgeStale();
    for (const { entry } of [...this.entries.values()]) {
      if (entry.making === undefined || now() - entry.asked < interest) continue;
      this.drop(entry);
      if (!entry.complete) this.entries.delete(entry.question.key);
    }
    this.totals.abandon(interest);
  }

  /** Ends what is done about an entry. */
  private drop(entry: Entry): void {
    entry.making?.abort();
    const place = this.waiting.indexOf(entry);
    if (place === -1) return;
    this.waiting.splice(place, 1);
    entry.making = undefined;
  }

  /** Has an entry's room counted anew; the one that was asked for longest ago goes where none is left. */
  private weigh(entry: Entry): void {
    const { key } = entry.question;
    if (this.entries.peek(key)?.entry === entry) this.entries.set(key, { entry });
  }
}

/** Bytes that an entry takes up, about: the samples, and the question, which may be long. */
function sizeOf({ samples, question }: Entry): number {
  const { counting, mileposts, key, written } = question;
  const statements = [counting.count, counting.estimate, mileposts.pass, mileposts.steps, written];
  const texts = statements.map((one) => sizeOfStatement(one));
  return samples.bytes + key.length * 2 + 1_000 + texts.reduce((sum, one) => sum + one, 0);
}

function sizeOfStatement(statement: Statement | undefined): number {
  if (statement === undefined) return 0;
  const values = statement.parameters.map((value) =>
    typeof value === 'number' ? 8 : typeof value === 'string' ? value.length : value.join().length,
  );
  return statement.text.length + values.reduce((sum, one) => sum + one, 0);
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
