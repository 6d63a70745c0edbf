import type { Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import type { Answer, Asking } from './database.ts';
import { statementName } from './statement-name.ts';

export interface ResultCacheOptions {
  /** Bytes of answers kept at most, about; 32 MB by default. */
  readonly bytes?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** An answer, and when it was made, where that was not for this very question. */
export interface CachedAnswer extends Answer {
  readonly at?: number;
}

/** What is asked where no answer is at hand; `at` is when it was made, where that was before. */
interface Answering {
  readonly run: (statement: Statement, asking: Asking) => Promise<CachedAnswer>;
}

interface Kept {
  readonly answer: Answer;
  readonly at: number;
}

/** Answers that took longer, in ms, are kept; quicker ones are made anew each time. */
const worthKeeping = 25;
/** For so many times as long as they took, and at most so many ms. */
const goodFor = 10;
const longest = 30_000;

/** Answers of statements that read much to tell little, kept for a short while. */
export class ResultCache {
  private readonly database: Answering;
  private readonly now: () => number;
  private readonly kept: LRUCache<string, Kept>;

  constructor(
    database: Answering,
    { bytes = 32 * 1024 * 1024, now = Date.now }: ResultCacheOptions = {},
  ) {
    this.database = database;
    this.now = now;
    this.kept = new LRUCache({
      maxSize: bytes,
      sizeCalculation: ({ answer }, key) => key.length + sizeOf(answer),
      perf: { now },
      ttlResolution: 0,
    });
  }

  /** Runs a statement, unless its answer is at hand. @throws Failure */
  async run(statement: Statement, asking: Asking = {}): Promise<CachedAnswer> {
    const key = statementName(statement);
    const known = this.kept.get(key);
    if (known !== undefined) return { ...known.answer, waited: 0, ran: 0, at: known.at };
    const answer = await this.database.run(statement, asking);
    if (answer.ran >= worthKeeping) {
      const ttl = Math.min(longest, answer.ran * goodFor);
      this.kept.set(key, { answer, at: this.now() }, { ttl });
    }
    return answer;
  }

  /** Forgets all answers, since the tables are others. */
  forget(): void {
    this.kept.clear();
  }
}

function sizeOf({ rows }: Answer): number {
  let bytes = 200;
  for (const row of rows) {
    for (const value of row) bytes += 24 + (value?.length ?? 0);
  }
  return bytes;
}
