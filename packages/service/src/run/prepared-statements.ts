import type { Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';

/** Statements that a session keeps prepared at most. */
const most = 200;
/** Texts that are counted at most; the one that was queried longest ago is forgotten. */
const mostCounted = 2_000;
/** Characters of a statement that is worth preparing: each session keeps all of it, and its plan. */
const mostCharacters = 8_192;

/**
 * Which statements to prepare: those whose text has come before, since the same question is
 * requested with other values all the time. PostgreSQL then reads the text once in each session.
 */
export class PreparedStatements {
  private readonly names = new Map<string, string>();
  private generation = 0;
  private readonly once = new LRUCache<string, true>({ max: mostCounted });

  /** The name to prepare it under; undefined for what is not worth it. */
  nameOf({ text }: Statement): string | undefined {
    const name = this.names.get(text);
    if (name !== undefined || this.names.size >= most) return name;
    if (text.length > mostCharacters) return undefined;
    if (!this.once.has(text)) {
      this.once.set(text, true);
      return undefined;
    }
    this.once.delete(text);
    const given = `ephoros_${this.generation}_${this.names.size}`;
    this.names.set(text, given);
    return given;
  }

  /** Prepares everything again: what sessions have prepared is of tables that have changed since. */
  renew(): void {
    this.names.clear();
    this.generation += 1;
  }
}
