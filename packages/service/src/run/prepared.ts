import type { Statement } from '@ephoros/core/sql';

/** Statements that a session keeps prepared at most. */
const most = 200;
/** Texts that are counted at most, before they are counted anew. */
const mostCounted = 2_000;

/**
 * Which statements to prepare: those whose text has come before, since the same question is
 * asked with other values all the time. PostgreSQL then reads the text once in each session.
 */
export class Prepared {
  private readonly names = new Map<string, string>();
  private readonly once = new Set<string>();

  /** The name to prepare it under; undefined for what is not worth it. */
  nameOf({ text }: Statement): string | undefined {
    const name = this.names.get(text);
    if (name !== undefined || this.names.size >= most) return name;
    if (!this.once.has(text)) {
      if (this.once.size >= mostCounted) this.once.clear();
      this.once.add(text);
      return undefined;
    }
    this.once.delete(text);
    const given = `ephoros_${this.names.size}`;
    this.names.set(text, given);
    return given;
  }
}
