import type { Statement } from '@ephoros/core/sql';
import type { Asking } from './database.ts';
import { KeptAnswers, type CachedAnswer } from './kept-answers.ts';
import { journeys } from './servers.ts';
import { statementName } from './statement-name.ts';

export interface ResultCacheOptions {
  /** Bytes of answers kept at most, about; 32 MB by default. */
  readonly bytes?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** What is asked where no answer is at hand; `at` is when it was made, where that was before. */
interface Answering<Asked> {
  readonly run: (statement: Statement, asking?: Asked) => Promise<CachedAnswer>;
}

/** Answers that took longer, in ms, are kept; quicker ones are made anew each time. */
const worthKeeping = 25;
/** For so many times as long as they took, and at most so many ms. */
const goodFor = 10;
const longest = 30_000;

/** Answers of statements that read much to tell little, kept for a short while. */
export class ResultCache<Asked extends Asking = Asking> {
  private readonly database: Answering<Asked>;
  private readonly kept: KeptAnswers;

  constructor(
    database: Answering<Asked>,
    { bytes = 32 * 1024 * 1024, now = Date.now }: ResultCacheOptions = {},
  ) {
    this.database = database;
    this.kept = new KeptAnswers(bytes, now);
  }

  /** Runs a statement, unless its answer is at hand. @throws Failure */
  async run(statement: Statement, asking?: Asked): Promise<CachedAnswer> {
    // What was remembered before somebody wrote something is not for them.
    const key = `${journeys.getStore()?.after ?? ''}\0${statementName(statement)}`;
    const known = this.kept.get(key);
    if (known !== undefined) return known;
    const answer = await this.database.run(statement, asking);
    if (answer.ran >= worthKeeping) {
      this.kept.set(key, answer, Math.min(longest, answer.ran * goodFor));
    }
    return answer;
  }

  /** Forgets all answers, since the tables are others. */
  forget(): void {
    this.kept.clear();
  }
}
