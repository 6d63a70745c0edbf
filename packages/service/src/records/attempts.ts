import { lt, sql } from 'drizzle-orm';
import type { Records } from './records.ts';
import { attempts } from './schema.ts';

/** Ms between two removals of what is counted no longer. */
const between = 600_000;

/** Sign-ins that failed, counted for all services of these records together. */
export class Attempts {
  private readonly records: Records;
  private readonly milliseconds: number;
  private readonly now: () => number;
  private swept = 0;

  /** Counts begin again after so many ms. */
  constructor(records: Records, milliseconds: number, now: () => number = Date.now) {
    this.records = records;
    this.milliseconds = milliseconds;
    this.now = now;
  }

  /** Counts one more; gives how many there are, and in how many ms they begin again. @throws RecordsError, Failure */
  async add(sender: string): Promise<{ readonly count: number; readonly milliseconds: number }> {
    const now = this.now();
    const [at, until] = [now, now + this.milliseconds].map((ms) => new Date(ms).toISOString());
    const isOver = sql`${attempts.expiresAt} <= ${at}::timestamptz`;
    const [row] = await this.records.use(async (database) => {
      if (now - this.swept > between) {
        this.swept = now;
        await database.delete(attempts).where(lt(attempts.expiresAt, new Date(now)));
      }
      return database
        .insert(attempts)
        .values({ sender, count: 1, expiresAt: new Date(now + this.milliseconds) })
        .onConflictDoUpdate({
          target: attempts.sender,
          set: {
            count: sql`case when ${isOver} then 1 else ${attempts.count} + 1 end`,
            expiresAt: sql`case when ${isOver} then ${until}::timestamptz else ${attempts.expiresAt} end`,
          },
        })
        .returning();
    });
    const { count = 1, expiresAt = new Date(now) } = row ?? {};
    const left = Math.max(0, expiresAt.getTime() - now);
    return { count, milliseconds: Math.min(this.milliseconds, left) };
  }
}
