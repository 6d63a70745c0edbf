import type { Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import type { Database } from '../run/index.ts';

/** How long a reading of the database's own statistics is good enough, in ms. */
const goodFor = 2_000;
/** Readings stored at most. */
const most = 1_000;

/** What has become of some tables so far. */
export interface Written {
  /** Rows written, ever growing. */
  readonly rows: number;
  /** Which files the rows lie in: others, once a table was emptied or written again as a whole. */
  readonly files: string;
  /** Each table by itself, always in the same order: rows written to it, and rows that it has. */
  readonly tables?: readonly { readonly rows: number; readonly size: number }[];
}

/** Whether nothing was written between two readings, as far as the database reports. */
export function isUnchanged(one: Written | undefined, other: Written | undefined): boolean {
  if (one === undefined || other === undefined) return false;
  return one.rows === other.rows && one.files === other.files;
}

/** How much has been written to tables (see `compileWritten`), requested not too often. */
export class Changes {
  private readonly database: Database;
  private readonly readings: LRUCache<string, Promise<Written | undefined>>;

  /** `now` is a clock, in ms since 1970. */
  constructor(database: Database, now: () => number) {
    this.database = database;
    this.readings = new LRUCache({ max: most, ttl: goodFor, ttlResolution: 0, perf: { now } });
  }

  /** Undefined where nobody counts them, as for views and foreign tables. */
  read(written: Statement): Promise<Written | undefined> {
    const tables = JSON.stringify(written.parameters);
    const last = this.readings.get(tables);
    if (last !== undefined) return last;
    const reading = this.request(written);
    this.readings.set(tables, reading);
    return reading;
  }

  private async request(written: Statement): Promise<Written | undefined> {
    try {
      const { rows } = await this.database.run(written);
      const [count = null, files = null, unknown = null, each = null] = rows[0] ?? [];
      if (count === null || files === null || unknown !== '0') return undefined;
      const tables = (each ?? '').split(',').map((one) => {
        const [written, size] = one.split(':').map(Number);
        return { rows: written ?? 0, size: size ?? 0 };
      });
      return { rows: Number(count), files, tables };
    } catch {
      return undefined;
    }
  }
}
