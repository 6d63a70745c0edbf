import { LRUCache } from 'lru-cache';
import type { Answer } from './database.ts';

/** An answer, and when it was made, where that was not for this very question; in ms since 1970. */
export interface CachedAnswer extends Answer {
  readonly at?: number;
}

/** Answers of statements, stored for a while each and within a bound of bytes. */
export class CachedAnswers {
  private readonly now: () => number;
  private readonly entries: LRUCache<string, { readonly answer: Answer; readonly at: number }>;

  /** @param now a clock, in ms since 1970 */
  constructor(bytes: number, now: () => number) {
    this.now = now;
    this.entries = new LRUCache({
      maxSize: bytes,
      sizeCalculation: ({ answer }, key) => key.length + sizeOf(answer),
      perf: { now },
      ttlResolution: 0,
    });
  }

  get(name: string): CachedAnswer | undefined {
    const known = this.entries.get(name);
    return known && { ...known.answer, waited: 0, ran: 0, at: known.at };
  }

  /** Keeps an answer for so many ms. */
  set(name: string, answer: Answer, milliseconds: number): void {
    this.entries.set(name, { answer, at: this.now() }, { ttl: milliseconds });
  }

  clear(): void {
    this.entries.clear();
  }
}

function sizeOf({ rows }: Answer): number {
  let bytes = 200;
  for (const row of rows) {
    for (const value of row) bytes += 24 + (value?.length ?? 0);
  }
  return bytes;
}
