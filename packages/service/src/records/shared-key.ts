import { randomBytes } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { Records } from './records.ts';
import { secrets } from './schema.ts';

/** A key of 256 bits that all services of the same records have, made by the first that needs it. */
export class SharedKey {
  private readonly records: Records;
  private readonly name: string;
  private known: Promise<Uint8Array> | undefined;

  constructor(records: Records, name: string) {
    this.records = records;
    this.name = name;
  }

  /** Read once; again where that failed. @throws RecordsError, Failure */
  read(): Promise<Uint8Array> {
    this.known ??= this.readOnce().catch((thrown: unknown) => {
      this.known = undefined;
      throw thrown;
    });
    return this.known;
  }

  private readOnce(): Promise<Uint8Array> {
    const { name } = this;
    const value = randomBytes(32).toString('base64url');
    return this.records.use(async (database) => {
      // Of several that begin at once the first one's stays.
      await database.insert(secrets).values({ name, value }).onConflictDoNothing();
      const [row] = await database.select().from(secrets).where(eq(secrets.name, name));
      if (row === undefined) throw new Error('what was kept is not there');
      return Buffer.from(row.value, 'base64url');
    });
  }
}
