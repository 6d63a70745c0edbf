import type { Statement } from '@ephoros/core/sql';
import type { QueryOptions } from './database.ts';
import { CachedAnswers, type CachedAnswer } from './cached-answers.ts';
import { replicaContexts } from './servers.ts';
import { statementName } from './statement-name.ts';

export interface ResultCacheOptions {
  /** Bytes of answers stored at most, about; 32 MB by default. */
  readonly bytes?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** What is run where no answer is at hand; `at` is when it was made, where that was before. */
interface Answering<Requested> {
  readonly run: (statement: Statement, options?: Requested) => Promise<CachedAnswer>;
}

/** Answers that took longer, in ms, are stored; quicker ones are made again each time. */
const worthCaching = 25;
/** For so many times as long as they took, and at most so many ms. */
const goodFor = 10;
const longest = 30_000;

/** Answers of statements that read much to tell little, stored for a short while. */
export class ResultCache<Requested extends QueryOptions = QueryOptions> {
  private readonly database: Answering<Requested>;
  private readonly answers: CachedAnswers;

  constructor(
    database: Answering<Requested>,
    { bytes = 32 * 1024 * 1024, now = Date.now }: ResultCacheOptions = {},
  ) {
    this.database = database;
    this.answers = new CachedAnswers(bytes, now);
  }

  /** Runs a statement, unless its answer is at hand. @throws Failure */
  async run(statement: Statement, options?: Requested): Promise<CachedAnswer> {
    // What was remembered before somebody wrote something is not for them.
    const key = `${replicaContexts.getStore()?.after ?? ''}\0${statementName(statement)}`;
    const known = this.answers.get(key);
    if (known !== undefined) return known;
    const answer = await this.database.run(statement, options);
    if (answer.ran >= worthCaching) {
      this.answers.set(key, answer, Math.min(longest, answer.ran * goodFor));
    }
    return answer;
  }

  /** Forgets all answers, since the tables are others. */
  forget(): void {
    this.answers.clear();
  }
}
