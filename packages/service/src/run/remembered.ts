import type { Statement } from '@ephoros/core/sql';
import type { Answer, Asking, Database } from './database.ts';

export interface RememberedOptions {
  /** Answers kept at most, and rows in all of them; 200 and 200,000 by default. */
  readonly answers?: number;
  readonly rows?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** An answer, and when it was made, where that was not for this very question. */
export interface RememberedAnswer extends Answer {
  readonly at?: number;
}

interface Kept {
  readonly answer: Answer;
  readonly at: number;
  readonly until: number;
}

/** Answers that took longer, in ms, are kept; quicker ones are made anew each time. */
const worthKeeping = 25;
/** For so many times as long as they took, and at most so many ms. */
const goodFor = 10;
const longest = 30_000;

/** Answers of statements that read much to tell little, kept for a short while. */
export class Remembered {
  private readonly database: Database;
  private readonly options: Required<RememberedOptions>;
  // In the order in which they were made.
  private readonly kept = new Map<string, Kept>();

  constructor(database: Database, options: RememberedOptions = {}) {
    this.database = database;
    this.options = { answers: 200, rows: 200_000, now: () => Date.now(), ...options };
  }

  /** Runs a statement, unless its answer is at hand. @throws Failure */
  async run(statement: Statement, asking: Asking = {}): Promise<RememberedAnswer> {
    const { now } = this.options;
    const key = `${statement.text}\0${JSON.stringify(statement.parameters)}`;
    const known = this.kept.get(key);
    if (known !== undefined && now() < known.until) {
      return { rows: known.answer.rows, waited: 0, ran: 0, at: known.at };
    }
    this.kept.delete(key);
    const answer = await this.database.run(statement, asking);
    if (answer.ran >= worthKeeping) {
      const at = now();
      this.kept.set(key, { answer, at, until: at + Math.min(longest, answer.ran * goodFor) });
      this.dropOldest();
    }
    return answer;
  }

  private dropOldest(): void {
    const { answers, rows: mostRows } = this.options;
    let rows = 0;
    for (const { answer } of this.kept.values()) rows += answer.rows.length;
    for (const [key, { answer, until }] of this.kept) {
      const fits = this.kept.size <= answers && rows <= mostRows;
      if (fits && this.options.now() < until) return;
      this.kept.delete(key);
      rows -= answer.rows.length;
    }
  }
}
