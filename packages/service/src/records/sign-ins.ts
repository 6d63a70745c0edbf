import { and, eq, isNull, lt } from 'drizzle-orm';
import { endWithAll } from './ending.ts';
import { newId } from './new-id.ts';
import type { Records } from './records.ts';
import { sessions } from './schema.ts';
import { SharedKey } from './shared-key.ts';

/** Somebody who signed in by a browser, until when. */
export interface StoredSignIn {
  readonly id: string;
  readonly caller: string;
  readonly expiresAt: Date;
}

/** Who is signed in by a browser, and the key of their cookies. All throw RecordsError, Failure. */
export class SignIns {
  private readonly records: Records;
  private readonly now: () => number;
  private readonly cookieKey: SharedKey;

  constructor(records: Records, now: () => number = Date.now) {
    this.records = records;
    this.now = now;
    this.cookieKey = new SharedKey(records, 'session cookies');
  }

  /** The key of session cookies (256 bits): the same for all services of these records. */
  secret(): Promise<Uint8Array> {
    return this.cookieKey.read();
  }

  /** Notes that somebody signed in, by a token where its id is given; what has expired is dropped. */
  async begin(caller: string, expiresAt: Date, token?: string): Promise<StoredSignIn> {
    const id = newId();
    const createdAt = new Date(this.now());
    await this.records.use(async (database) => {
      await database.delete(sessions).where(lt(sessions.expiresAt, createdAt));
      await database
        .insert(sessions)
        .values({ id, caller, createdAt, expiresAt, token: token ?? null });
    });
    return { id, caller, expiresAt };
  }

  /** Somebody who is signed in still. */
  async find(id: string): Promise<StoredSignIn | undefined> {
    const [row] = await this.records.use((database) =>
      database
        .select()
        .from(sessions)
        .where(and(eq(sessions.id, id), isNull(sessions.endedAt))),
    );
    return row !== undefined && row.expiresAt.getTime() > this.now() ? row : undefined;
  }

  /**
   * Ends one, or all of a caller's, with the tokens of programs that were let in during them. Gives the ids of what was
   * in force until now.
   */
  async end(
    which: { readonly id: string } | { readonly caller: string },
  ): Promise<{ readonly tokens: readonly string[]; readonly sessions: readonly string[] }> {
    const meant = 'id' in which ? eq(sessions.id, which.id) : eq(sessions.caller, which.caller);
    const ended = await this.records.use((database) =>
      endWithAll(database, { sessions: meant }, new Date(this.now())),
    );
    return { tokens: ended.tokens.map(({ id }) => id), sessions: ended.sessions };
  }
}
