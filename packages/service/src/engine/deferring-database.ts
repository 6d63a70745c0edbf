import { compilePlan, isPlan, readPlan, type Statement } from '@ephoros/core/sql';
import type { PositionIndex } from '../positions/index.ts';
import { LRUCache } from 'lru-cache';
import {
  Failure,
  inTime,
  NotReady,
  WaitBudget,
  statementName,
  type QueryOptions,
  type CachedAnswer,
  type Database,
} from '../run/index.ts';

/** Who asks, and until when. */
export interface DeferringOptions extends QueryOptions {
  /** Those of the table, where all of them may have to be read. */
  readonly rows?: number | undefined;
  /** How long the caller waits; the usual time of callers who come back, by default. */
  readonly budget?: WaitBudget | undefined;
  /** Of a statement that was thought to be quick: what goes on without the request instead of it, if anything. */
  readonly otherWay?: OtherWay | undefined;
}

/** Another statement for the same answer. */
export interface OtherWay {
  readonly statement: Statement;
  /** Called when it is taken. */
  readonly taken: () => void;
}

/** Of the time that a request waits, the share after which an answer that does not come is thought about. */
const soon = 1 / 8;
/** Ms for which a statement that took long is thought to do so again. */
const deferredFor = 60_000;
/** Characters of their names at most. */
const mostCharacters = 4 * 1024 * 1024;
/** Times as long that a request waits while statements wait for a connection. */
const turnsInCrowd = 6;
/** Times as long as the planner took that a statement which it finds cheap is waited for. */
const asLong = 4;
/** Costs of the planner from which on a statement is thought to take longer than a request waits. */
const costly = 200_000;
/** Rows of a table from which on the planner is consulted first: nothing is begun that would be begun again. */
const manyRows = 1_000_000;

/**
 * Runs statements for requests, which wait for a while at most: what takes longer goes on without them, once for
 * all who ask, and is there when they come again.
 */
export class DeferringDatabase {
  private readonly database: Database;
  private readonly positions: Pick<PositionIndex, 'longAnswer'>;
  private readonly deferAfter: number;
  /** Statements that were passed over lately, by name. */
  private readonly deferred = new LRUCache<string, true>({
    max: 1_000,
    maxSize: mostCharacters,
    sizeCalculation: (_value, name) => name.length + 1,
    ttl: deferredFor,
  });

  /** @param deferAfter ms that a request waits */
  constructor(
    database: Database,
    positions: Pick<PositionIndex, 'longAnswer'>,
    deferAfter: number,
  ) {
    this.database = database;
    this.positions = positions;
    this.deferAfter = deferAfter;
  }

  /** The answer of a statement. @throws Failure; NotReady where it takes longer than a request waits */
  async run(statement: Statement, options: DeferringOptions = {}): Promise<CachedAnswer> {
    return this.unless(statement, options);
  }

  /**
   * The same, unless something else is found `instead` of a statement that takes long; it is given up once that is
   * sure.
   */
  async unless<Other = never>(
    statement: Statement,
    options: DeferringOptions,
    instead?: (cost: number, giveUp: () => void) => Promise<Other | undefined>,
  ): Promise<CachedAnswer | Other> {
    const { signal = never, table = '', mayBeCut = false, rows = 0, otherWay } = options;
    const { budget = new WaitBudget(this.deferAfter) } = options;
    const begin = this.deferAfter * soon;
    const own = new AbortController();
    const until = AbortSignal.any([signal, own.signal]);
    // Nobody waits longer for the connections of quick statements, however long a caller waits.
    const quickly = new WaitBudget(Math.min(this.deferAfter, budget.left));
    const goOn = (one = statement): Promise<CachedAnswer> =>
      this.long(one, budget, { signal, mayBeCut });
    // What was passed over is requested there, and not begun again.
    const isDeferred = this.deferred.has(deferredName(statement, mayBeCut));
    if (isDeferred || budget.afterWait === 'cancel') return goOn();
    if (rows >= manyRows && !this.isCrowded) {
      const cost = await this.costOf(statement, { signal, table }, begin);
      if (cost > costly) return goOn();
    }
    const running = this.database.run(statement, { signal: until, table, mayBeCut });
    // It may be given up before anybody waits for it again.
    running.catch(() => undefined);
    try {
      const quick = await inTime(begin, running);
      if (quick !== undefined) return quick;
      const startedAt = performance.now();
      const cost = this.isCrowded
        ? 0
        : await this.costOf(statement, { signal, table }, quickly.left);
      if (instead !== undefined && cost <= costly && quickly.left > 0) {
        // Where planning takes long as well the database has no time for anything: that says nothing about the statement.
        const long = Math.min(quickly.left, (performance.now() - startedAt) * asLong);
        const busy = await inTime(long, running);
        if (busy !== undefined) return busy;
      }
      const other = this.isCrowded ? undefined : await instead?.(cost, () => own.abort());
      if (other !== undefined) return other;
      const gives = cost > costly && otherWay === undefined;
      let later = gives ? undefined : await inTime(quickly.left, running);
      // What waits for a connection behind others does not take long for its own sake.
      for (let turn = 0; turn < turnsInCrowd && later === undefined && this.isCrowded; turn += 1) {
        later = await inTime(this.deferAfter, running);
      }
      if (later !== undefined) return later;
      own.abort();
      otherWay?.taken();
      return await goOn(otherWay?.statement);
    } finally {
      own.abort();
    }
  }

  /** An answer that takes long. @throws Failure, NotReady */
  private async long(
    statement: Statement,
    budget: WaitBudget,
    { signal, mayBeCut = false }: QueryOptions,
  ): Promise<CachedAnswer> {
    const isCancelled = budget.afterWait === 'cancel';
    if (!isCancelled) this.deferred.set(deferredName(statement, mayBeCut), true);
    const wanted = { waitLimit: budget.left, mayBeCut, isCancelled };
    const found = await this.positions.longAnswer(statement, wanted, signal);
    if ('progress' in found) throw new NotReady('answer', found.progress);
    return found.answer;
  }

  /** Whether statements wait for a connection. */
  private get isCrowded(): boolean {
    return this.database.limiter.waiting > 0;
  }

  /** What the planner guesses a statement to cost; nothing where it cannot tell, or not within so many ms. */
  private async costOf(
    statement: Statement,
    options: QueryOptions,
    milliseconds: number,
  ): Promise<number> {
    if (isPlan(statement)) return 0;
    try {
      const planning = this.database.run(compilePlan(statement), options);
      planning.catch(() => undefined);
      const { rows } = (await inTime(milliseconds, planning)) ?? { rows: [] };
      return readPlan(rows[0]?.[0])?.['Total Cost'] ?? 0;
    } catch (thrown) {
      // Next to a statement that takes long it is not requested in vain.
      if (thrown instanceof Failure && thrown.kind === 'cancelled') throw thrown;
      return 0;
    }
  }
}

const never = new AbortController().signal;

function deferredName(statement: Statement, mayBeCut: boolean): string {
  return `${String(mayBeCut)}\0${statementName(statement)}`;
}
