import { compilePlan, isPlan, readPlan, type Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import { Failure, CachedAnswers, statementName, type Answer, type Database } from '../run/index.ts';
import { Signal } from './signal.ts';
import { CostModel } from './cost-model.ts';
import type { LongAnswer, LongRequest } from './position-index.ts';

/** An answer is stored for so many times as long as it took, within these bounds; in ms. */
const goodFor = 10;
const shortest = 5_000;
const longest = 30_000;
/** Ms that a failure is stored for the caller in turns. */
const failedFor = 3_000;
/** Bytes of answers stored at most, about. */
const most = 64 * 1024 * 1024;
/** Ms that a statement goes on for anyone who went away, and may come again. */
const grace = 1_500;

interface Running {
  readonly controller: AbortController;
  readonly begun: number;
  /** When somebody last requested it. */
  startedAt: number;
  /** How many wait for it right now. */
  waiting: number;
  /** What the planner makes of it, in ms. */
  expected: number | undefined;
  readonly changeSignal: Signal;
  outcome: { readonly answer: Answer } | { readonly failure: unknown } | undefined;
}

/** Statements that take longer than a request waits: run once for all who ask, and stored for a while. */
export class LongAnswers {
  private readonly database: Database;
  private readonly quick: Database;
  private readonly costModel: CostModel;
  private readonly now: () => number;
  private readonly running = new Map<string, Running>();
  private readonly answers: CachedAnswers;
  private readonly failed: LRUCache<string, { readonly failure: unknown }>;

  constructor(database: Database, quick: Database, costModel: CostModel, now: () => number) {
    this.database = database;
    this.quick = quick;
    this.costModel = costModel;
    this.now = now;
    this.answers = new CachedAnswers(most, now);
    this.failed = new LRUCache({ max: 1_000, ttl: failedFor, perf: { now }, ttlResolution: 0 });
  }

  /** See `PositionIndex.longAnswer`. @throws Failure */
  async request(
    statement: Statement,
    { waitLimit, mayBeCut = false, isCancelled = false }: LongRequest,
    signal?: AbortSignal,
  ): Promise<LongAnswer> {
    const name = `${String(mayBeCut)}\0${statementName(statement)}`;
    const known = this.answers.get(name);
    if (known !== undefined) return { answer: known };
    const failed = this.failed.get(name);
    if (failed !== undefined) {
      // The caller once more has it tried again.
      this.failed.delete(name);
      throw failed.failure;
    }
    if (isCancelled) {
      const abandoned = this.running.get(name);
      if (abandoned !== undefined) this.giveUp(name, abandoned, -1);
      throw new Failure('cancelled');
    }
    const running = this.running.get(name) ?? this.begin(name, statement, mayBeCut);
    running.startedAt = this.now();
    running.waiting += 1;
    const until = performance.now() + waitLimit;
    while (running.outcome === undefined && performance.now() < until) {
      if (signal?.aborted === true) break;
      await running.changeSignal.wait(until - performance.now(), signal);
    }
    running.waiting -= 1;
    if (signal?.aborted === true) {
      // The caller in turns comes again at once.
      setTimeout(() => this.giveUp(name, running, grace), grace).unref();
      throw new Failure('cancelled');
    }
    const { outcome, begun, expected } = running;
    if (outcome === undefined) {
      const elapsed = this.now() - begun;
      return { progress: { elapsed, share: CostModel.share(elapsed, expected) } };
    }
    if ('failure' in outcome) throw outcome.failure;
    return { answer: outcome.answer };
  }

  /** Gives up the statements that nobody has requested since so many ms. */
  abandon(interest: number): void {
    for (const [name, running] of this.running) this.giveUp(name, running, interest);
  }

  /** Forgets all answers, since the tables are others. */
  forget(): void {
    this.answers.clear();
    for (const { waiting, controller } of this.running.values()) {
      if (waiting === 0) controller.abort();
    }
    this.running.clear();
  }

  private giveUp(name: string, running: Running, interest: number): void {
    if (running.waiting > 0 || this.now() - running.startedAt < interest) return;
    if (this.running.get(name) === running) this.running.delete(name);
    running.controller.abort();
  }

  private begin(name: string, statement: Statement, mayBeCut: boolean): Running {
    const begun = this.now();
    const running: Running = {
      ...{ controller: new AbortController(), begun, startedAt: begun, waiting: 0 },
      ...{ expected: undefined, changeSignal: new Signal(), outcome: undefined },
    };
    this.running.set(name, running);
    void this.run(name, statement, mayBeCut, running);
    return running;
  }

  private async run(
    name: string,
    statement: Statement,
    mayBeCut: boolean,
    running: Running,
  ): Promise<void> {
    const { signal } = running.controller;
    const cost = this.costOf(statement, signal).then((found) => {
      running.expected = found === undefined ? undefined : this.costModel.expect(found);
      return found;
    });
    try {
      const answer = await this.database.run(statement, { signal, mayBeCut });
      const { ran } = answer;
      // What was begun before all was forgotten is for those alone who wait for it.
      if (this.running.get(name) === running) {
        this.answers.set(name, answer, Math.min(longest, Math.max(shortest, ran * goodFor)));
      }
      running.outcome = { answer };
      void cost.then((found) => found !== undefined && this.costModel.learn(found, ran));
    } catch (failure) {
      running.outcome = { failure };
      if (running.waiting === 0 && !signal.aborted) this.failed.set(name, { failure });
    }
    if (this.running.get(name) === running) this.running.delete(name);
    running.changeSignal.ring();
  }

  private async costOf(statement: Statement, signal: AbortSignal): Promise<number | undefined> {
    if (isPlan(statement)) return undefined;
    try {
      const { rows } = await this.quick.run(compilePlan(statement), { signal });
      return readPlan(rows[0]?.[0])?.['Total Cost'];
    } catch {
      return undefined;
    }
  }
}
