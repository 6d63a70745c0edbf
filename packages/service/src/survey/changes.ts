import type { Statement } from '@ephoros/core/sql';
import type { Database } from '../run/index.ts';

/** How long a reading of the database's own statistics is good enough, in ms. */
const goodFor = 2_000;

interface Reading {
  readonly at: number;
  readonly count: Promise<number | undefined>;
}

/** How much has been written to tables (see `compileWritten`), asked not too often. */
export class Changes {
  private readonly database: Database;
  private readonly now: () => number;
  private readonly readings = new Map<string, Reading>();

  constructor(database: Database, now: () => number) {
    this.database = database;
    this.now = now;
  }

  /** Rows written so far, ever growing; undefined where nobody counts them, as for views. */
  read(written: Statement): Promise<number | undefined> {
    const table = JSON.stringify(written.parameters);
    const last = this.readings.get(table);
    if (last !== undefined && this.now() - last.at < goodFor) return last.count;
    const count = this.ask(written);
    this.readings.set(table, { at: this.now(), count });
    return count;
  }

  private async ask(written: Statement): Promise<number | undefined> {
    try {
      const { rows } = await this.database.run(written);
      const text = rows[0]?.[0] ?? null;
      return text === null ? undefined : Number(text);
    } catch {
      return undefined;
    }
  }
}
