import { and, inArray, isNull, type SQL } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { sessions, tokens } from './schema.ts';

/** Tokens and sessions that are no longer in force, by their ids. */
export interface Ended {
  readonly tokens: readonly (typeof tokens.$inferSelect)[];
  readonly sessions: readonly string[];
}

/** Which tokens and sessions are ended; none of a kind that is not stated. */
export interface Ending {
  readonly tokens?: SQL | undefined;
  readonly sessions?: SQL | undefined;
}

/**
 * Ends tokens and sessions with everything that came of them, however long the chain is: sessions begun by a token, and
 * tokens of programs that were let in during a session. In one transaction.
 */
export function endWithAll(database: NodePgDatabase, first: Ending, now: Date): Promise<Ended> {
  return database.transaction(async (transaction) => {
    const ended = { tokens: [] as (typeof tokens.$inferSelect)[], sessions: [] as string[] };
    let next: Ending = first;
    while (next.tokens !== undefined || next.sessions !== undefined) {
      const gone =
        next.tokens === undefined
          ? []
          : await transaction
              .update(tokens)
              .set({ revokedAt: now })
              .where(and(next.tokens, isNull(tokens.revokedAt)))
              .returning();
      const over =
        next.sessions === undefined
          ? []
          : await transaction
              .update(sessions)
              .set({ endedAt: now })
              .where(and(next.sessions, isNull(sessions.endedAt)))
              .returning({ id: sessions.id });
      ended.tokens.push(...gone);
      ended.sessions.push(...over.map(({ id }) => id));
      next = {
        tokens: among(tokens.session, over),
        sessions: among(sessions.token, gone),
      };
    }
    return ended;
  });
}

function among(
  column: typeof tokens.session | typeof sessions.token,
  ended: readonly { readonly id: string }[],
): SQL | undefined {
  return ended.length === 0
    ? undefined
    : inArray(
        column,
        ended.map(({ id }) => id),
      );
}
