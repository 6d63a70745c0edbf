import { randomBytes } from 'node:crypto';
import { and, eq, isNull, lt } from 'drizzle-orm';
import type { Records } from './records.ts';
import { sessions } from './schema.ts';
import { SharedKey } from './shared-key.ts';

/** Somebody who signed in by a browser, until when. */
export interface KeptSignIn {
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

  /** Notes that somebody signed in; what has expired is dropped. */
  async begin(caller: string, expiresAt: Date): Promise<KeptSignIn> {
    const id = randomBytes(16).toString('base64url');
    const createdAt = new Date(this.now());
    await this.records.use(async (database) => {
      await database.delete(sessions).where(lt(sessions.expiresAt, createdAt));
      await database.insert(sessions).values({ id, caller, createdAt, expiresAt });
    });
    return { id, caller, expiresAt };
  }

  /** Somebody who is signed in still. */
  async find(id: string): Promise<KeptSignIn | undefined> {
    const [row] = await this.records.use((database) =>
      database
        .select()
        .from(sessions)
        .where(and(eq(sessions.id, id), isNull(sessions.endedAt))),
    );
    return row !== undefined && row.expiresAt.getTime() > this.now() ? row : undefined;
  }

  /** Ends one, or all of a caller's; gives how many there were. */
  async end(which: { readonly id: string } | { readonly caller: string }): Promise<number> {
    const meant = 'id' in which ? eq(sessions.id, which.id) : eq(sessions.caller, which.caller);
    const ended = await this.records.use((database) =>
      database
        .update(sessions)
        .set({ endedAt: new Date(this.now()) })
        .where(and(meant, isNull(sessions.endedAt)))
        .returning({ id: sessions.id }),
    );
    return ended.length;
  }
}
