import { randomBytes } from 'node:crypto';
import { and, desc, eq, inArray, lt, or, sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import type { Records } from './records.ts';
import { changes, changeSets } from './schema.ts';

/** A row that a set changed. Values are JSON objects by column. */
export interface LoggedChange {
  readonly table: string;
  /** As the address of the row has it. */
  readonly key: string;
  readonly kind: 'add' | 'change' | 'remove';
  readonly columns: readonly string[];
  readonly before: string | null;
  readonly after: string | null;
}

/** A set of changes as it is remembered. */
export interface LoggedSet {
  readonly id: string;
  readonly caller: string;
  readonly at: Date;
  readonly state: 'pending' | 'saved';
  readonly transaction: string;
  readonly digest: string | null;
  readonly answer: string | null;
  readonly undoes: string | null;
}

/** A set that is about to be saved. */
export interface NewSet {
  readonly id: string;
  readonly caller: string;
  readonly transaction: string;
  readonly request?: { readonly key: string; readonly digest: string; readonly answer: string };
  readonly undoes?: string | undefined;
  readonly changes: readonly LoggedChange[];
}

/** A change with the set that it is of. */
export interface HistoryLine extends LoggedChange {
  readonly set: string;
  readonly place: number;
  readonly at: Date;
  readonly caller: string;
  readonly state: LoggedSet['state'];
  readonly transaction: string;
  readonly undoes: string | null;
  readonly undone: boolean;
}

/** Where a history goes on: behind this line. */
export interface HistoryPlace {
  readonly at: Date;
  readonly set: string;
  readonly place: number;
}

/** Somebody sends the same set under the same key at this moment. */
export class KeyTaken extends Error {}

const day = 24 * 3_600_000;
/** Ms within which old sets are not looked for again. */
const noted = 3_600_000;

/** The sets of changes that were saved: who, when, what before and after. */
export class ChangeLog {
  private readonly records: Records;
  private readonly days: number;
  private readonly now: () => number;
  private swept = 0;

  /** What is older than so many days is forgotten. */
  constructor(records: Records, days: number, now: () => number = Date.now) {
    this.records = records;
    this.days = days;
    this.now = now;
  }

  static newId(): string {
    return randomBytes(16).toString('base64url');
  }

  /** Notes a set before its transaction is committed. @throws KeyTaken, RecordsError, Failure */
  async begin({ id, caller, transaction, request, undoes, changes: made }: NewSet): Promise<void> {
    const taken = await this.records.use(async (database) => {
      await this.sweep(database);
      const set = {
        id,
        caller,
        at: new Date(this.now()),
        state: 'pending' as const,
        transaction,
        idempotencyKey: request?.key ?? null,
        digest: request?.digest ?? null,
        answer: request?.answer ?? null,
        undoes: undoes ?? null,
      };
      try {
        if (made.length === 0) await database.insert(changeSets).values(set);
        else {
          await database.execute(
            sql`with one as (insert into ${changeSets} (id, caller, at, state, transaction, idempotency_key, digest, answer, undoes)
              values (${set.id}, ${set.caller}, ${set.at.toISOString()}::timestamptz, ${set.state}, ${set.transaction}, ${set.idempotencyKey}, ${set.digest}, ${set.answer}, ${set.undoes}) returning id)
              insert into ${changes} select one.id, v.place - 1, v.a, v.b, v.c, v.d, v.e, v.f
              from one, unnest(${list(made.map((one) => one.table))}, ${list(made.map((one) => one.key))}, ${list(made.map((one) => one.kind))}, ${list(made.map((one) => JSON.stringify(one.columns)))}, ${list(made.map((one) => one.before))}, ${list(made.map((one) => one.after))})
                with ordinality as v(a, b, c, d, e, f, place)`,
          );
        }
      } catch (thrown) {
        const { code } = ((thrown as { cause?: unknown }).cause ?? thrown) as { code?: unknown };
        if (code !== '23505' || request === undefined) throw thrown;
        return true;
      }
      return false;
    });
    if (taken) throw new KeyTaken();
  }

  /** Notes that a set was saved; or forgets it, since it was not. */
  settle(id: string, saved: boolean): Promise<void> {
    return this.records.use(async (database) => {
      if (saved) {
        await database.update(changeSets).set({ state: 'saved' }).where(eq(changeSets.id, id));
      } else await database.delete(changeSets).where(eq(changeSets.id, id));
    });
  }

  /** What a caller sent under a key; undefined where that is nothing. */
  sent(caller: string, key: string): Promise<LoggedSet | undefined> {
    return this.one(and(eq(changeSets.caller, caller), eq(changeSets.idempotencyKey, key)));
  }

  find(id: string): Promise<LoggedSet | undefined> {
    return this.one(eq(changeSets.id, id));
  }

  /** The set by which another one was taken back; undefined where it was not. */
  undoneBy(id: string): Promise<LoggedSet | undefined> {
    return this.one(eq(changeSets.undoes, id));
  }

  /** The changes of a set, in their order. */
  changesOf(id: string): Promise<readonly LoggedChange[]> {
    return this.records.use(async (database) => {
      const rows = await database
        .select()
        .from(changes)
        .where(eq(changes.set, id))
        .orderBy(changes.place);
      return rows.map((row) => ({ ...row, columns: JSON.parse(row.columns) as string[] }));
    });
  }

  /** What was changed of a table, or of one row of it: the newest first, also what is pending. */
  history(
    table: string,
    key: string | undefined,
    limit: number,
    behind?: HistoryPlace,
  ): Promise<readonly HistoryLine[]> {
    return this.records.use(async (database) => {
      const rows = await database
        .select()
        .from(changes)
        .innerJoin(changeSets, eq(changes.set, changeSets.id))
        .where(
          and(
            eq(changes.table, table),
            ...(key === undefined ? [] : [eq(changes.key, key)]),
            ...(behind === undefined
              ? []
              : [
                  sql`(${changeSets.at}, ${changeSets.id}, ${changes.place}) < (${behind.at.toISOString()}::timestamptz, ${behind.set}, ${behind.place})`,
                ]),
          ),
        )
        .orderBy(desc(changeSets.at), desc(changeSets.id), desc(changes.place))
        .limit(limit);
      const ids = [...new Set(rows.map((row) => row.changes.set))];
      const undone = new Set(
        ids.length === 0
          ? []
          : (
              await database
                .select({ undoes: changeSets.undoes })
                .from(changeSets)
                .where(and(inArray(changeSets.undoes, ids), eq(changeSets.state, 'saved')))
            ).map(({ undoes }) => undoes),
      );
      return rows.map(
        ({ changes: change, change_sets: { at, caller, state, transaction, undoes } }) => ({
          ...change,
          columns: JSON.parse(change.columns) as string[],
          at,
          caller,
          state,
          transaction,
          undoes,
          undone: undone.has(change.set),
        }),
      );
    });
  }

  private one(where: ReturnType<typeof or>): Promise<LoggedSet | undefined> {
    return this.records.use(async (database) => {
      const [row] = await database.select().from(changeSets).where(where).limit(1);
      return row;
    });
  }

  private async sweep(database: NodePgDatabase): Promise<void> {
    if (this.now() - this.swept < noted) return;
    this.swept = this.now();
    const oldest = new Date(this.now() - this.days * day);
    await database.delete(changeSets).where(lt(changeSets.at, oldest));
  }
}

function list(texts: readonly (string | null)[]): ReturnType<typeof sql> {
  return sql`${sql.param(texts)}::text[]`;
}
