import { serverMark } from '@ephoros/core/sql';
import { and, desc, eq, inArray, lt, or, sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { newId } from './new-id.ts';
import type { Records } from './records.ts';
import { changes, changeSets } from './schema.ts';

/** A row that a set changed. */
export interface LoggedChange {
  readonly table: string;
  /** As the address of the row has it, after the change. */
  readonly key: string;
  /** The address before the change, where it is another one. */
  readonly keyBefore: string | null;
  readonly kind: 'add' | 'change' | 'remove';
  readonly columns: readonly string[];
  /** JSON objects of PostgreSQL's texts by column; null where there are none, or values are not stored. */
  readonly before: string | null;
  readonly after: string | null;
  /** The rule of a foreign key by which the database made the change; null where the set requested it. */
  readonly rule: 'delete cascade' | 'delete set' | 'update cascade' | 'update set' | null;
}

/** A change as it is stored: older ones have their values as answers have them. */
export interface LoggedEntry extends LoggedChange {
  readonly notation: 'answer' | 'postgres';
}

/** A set of changes as it is remembered. */
export interface LoggedSet {
  readonly id: string;
  readonly caller: string;
  readonly at: Date;
  readonly state: 'pending' | 'saved' | 'withdrawn';
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
  /** The server that the transaction runs on, as `serverMark` says it. */
  readonly server: string;
  readonly request?: { readonly key: string; readonly digest: string; readonly answer: string };
  readonly undoes?: string | undefined;
  readonly changes: readonly LoggedChange[];
}

/** A change with the set that it is of. */
export interface HistoryLine extends LoggedEntry {
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

/** Where the row begins that has a key now: with this entry, or behind it. */
export interface KeyBegun extends HistoryPlace {
  readonly isIncluded: boolean;
}

/** Somebody sends the same set under the same key at this moment. */
export class KeyTaken extends Error {}

const day = 24 * 3_600_000;
/** Addresses of one row that its history is followed through. */
const mostKeys = 1_000;
/** Ms within which old sets are not looked for again. */
const noted = 3_600_000;

/** SQL by which the transaction of its statement does not wait for the disk. */
const unflushed = sql.raw("set_config('synchronous_commit', 'off', true)");

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
    return newId();
  }

  /**
   * Notes a set before its transaction is committed. If the records are on the same server, the note
   * does not wait for the disk. The server writes one log in order, so the commit of the set, which
   * waits, writes the note too. @throws KeyTaken, RecordsError, Failure
   */
  async begin(set: NewSet): Promise<void> {
    const { id, caller, transaction, server, request, undoes, changes: made } = set;
    const at = new Date(this.now()).toISOString();
    const taken = await this.records.use(async (database) => {
      await this.sweep(database);
      try {
        await database.execute(
          sql`with one as (insert into ${changeSets} (id, caller, at, state, transaction, idempotency_key, digest, answer, undoes)
              select ${id}, ${caller}, ${at}::timestamptz, 'pending', ${transaction}, ${request?.key ?? null}, ${request?.digest ?? null}, ${request?.answer ?? null}, ${undoes ?? null}
              from (select count(${unflushed}) where ${sql.raw(serverMark)} = ${server}) as asked returning id)
              insert into ${changes} (set_id, place, table_name, row_key, row_key_before, kind, columns, before, after, rule, notation)
              select one.id, v.place - 1, v.a, v.b, v.c, v.d, v.e, v.f, v.g, v.h, 'postgres'
              from one, unnest(${list(made.map((one) => one.table))}, ${list(made.map((one) => one.key))}, ${list(made.map((one) => one.keyBefore))}, ${list(made.map((one) => one.kind))}, ${list(made.map((one) => JSON.stringify(one.columns)))}, ${list(made.map((one) => one.before))}, ${list(made.map((one) => one.after))}, ${list(made.map((one) => one.rule))})
                with ordinality as v(a, b, c, d, e, f, g, h, place)`,
        );
      } catch (thrown) {
        const { code } = ((thrown as { cause?: unknown }).cause ?? thrown) as { code?: unknown };
        if (code !== '23505' || request === undefined) throw thrown;
        return true;
      }
      return false;
    });
    if (taken) throw new KeyTaken();
  }

  /**
   * Notes that a set was saved; or forgets it, since it was not. Only forgetting waits for the disk. If
   * the server loses the note, the next reader of the set asks what became of its transaction.
   */
  settle(id: string, saved: boolean): Promise<void> {
    return this.records.use(async (database) => {
      if (saved) {
        await database
          .update(changeSets)
          .set({ state: 'saved' })
          .where(and(eq(changeSets.id, id), sql`${unflushed} is not null`));
      } else await database.delete(changeSets).where(eq(changeSets.id, id));
    });
  }

  /** Notes that nothing is saved under a key any more; false where something was sent under it. */
  withdraw(caller: string, key: string): Promise<boolean> {
    return this.records.use(async (database) => {
      const noted = await database
        .insert(changeSets)
        .values({
          id: ChangeLog.newId(),
          caller,
          at: new Date(this.now()),
          state: 'withdrawn',
          transaction: '',
          idempotencyKey: key,
        })
        .onConflictDoNothing()
        .returning({ id: changeSets.id });
      return noted.length > 0;
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
  changesOf(id: string): Promise<readonly LoggedEntry[]> {
    return this.records.use(async (database) => {
      const rows = await database
        .select()
        .from(changes)
        .where(eq(changes.set, id))
        .orderBy(changes.place);
      return rows.map((row) => ({ ...row, columns: JSON.parse(row.columns) as string[] }));
    });
  }

  /** The address by now of a row that had this one right after a set: later sets may have changed it. */
  keyNow(table: string, key: string, { at, id }: Pick<LoggedSet, 'at' | 'id'>): Promise<string> {
    return this.records.use(async (database) => {
      const { rows } = await database.execute<{ key: string }>(sql`
        with recursive steps (key, at, id, number) as (
          select ${key}::text, ${at.toISOString()}::timestamptz, ${id}::text, 0
          union all
          select n.key, n.at, n.id, s.number + 1
          from steps s cross join lateral (
            select c.row_key as key, o.at, o.id
            from ${changes} c join ${changeSets} o on o.id = c.set_id
            where c.table_name = ${table} and c.row_key_before = s.key and (o.at, o.id) > (s.at, s.id)
            order by o.at, o.id limit 1) n
          where s.number < ${mostKeys})
        select key from steps order by number desc limit 1`);
      return rows[0]?.key ?? key;
    });
  }

  /**
   * Where the rows begin that have some keys now, as far as the log knows: the entry that added a row
   * or gave it its key, or the one after which no row had the key.
   */
  begun(table: string, keys: readonly string[]): Promise<ReadonlyMap<string, KeyBegun>> {
    return this.records.use(async (database) => {
      if (keys.length === 0) return new Map();
      const { rows } = await database.execute<{
        key: string;
        at: string;
        set: string;
        place: number;
        included: boolean;
      }>(sql`
        select k.key, n.at::text as at, n.id as set, n.place, n.included
        from unnest(${list(keys)}) as k(key) cross join lateral (
          select o.at, o.id, c.place, c.kind <> 'remove' and c.row_key = k.key as included
          from ${changes} c join ${changeSets} o on o.id = c.set_id
          where c.table_name = ${table} and o.state <> 'withdrawn'
            and ((c.row_key = k.key and (c.kind <> 'change' or c.row_key_before is not null))
              or c.row_key_before = k.key)
          order by o.at desc, o.id desc, c.place desc limit 1) n`);
      return new Map(
        rows.map(({ key, at, set, place, included }) => [
          key,
          { at: new Date(at), set, place, isIncluded: included },
        ]),
      );
    });
  }

  /**
   * What was changed of a table, or of one row of it: the newest first, also what is pending. The
   * history of a row goes on under the addresses that it had before.
   */
  history(
    table: string,
    key: string | undefined,
    limit: number,
    behind?: HistoryPlace,
  ): Promise<readonly HistoryLine[]> {
    return this.records.use(async (database) => {
      const names = key === undefined ? [] : await namesOf(database, table, key);
      const rows = await database
        .select()
        .from(changes)
        .innerJoin(changeSets, eq(changes.set, changeSets.id))
        .where(
          and(
            eq(changes.table, table),
            ...(key === undefined ? [] : [or(...names.map(isOfName))]),
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

/** An address of a row, and the last entry that it had it for; undefined of the one that it has now. */
interface RowName {
  readonly key: string;
  readonly until: HistoryPlace | undefined;
}

/** The addresses that a row has had, the present one first. */
async function namesOf(
  database: NodePgDatabase,
  table: string,
  key: string,
): Promise<readonly RowName[]> {
  const { rows } = await database.execute<{
    key: string;
    at: string;
    set: string;
    place: number;
  }>(sql`
    with recursive names (key, at, id, place, number) as (
      select ${key}::text, 'infinity'::timestamptz, ''::text, 0, 0
      union all
      select n.key, n.at, n.id, n.place, s.number + 1
      from names s cross join lateral (
        select c.row_key_before as key, o.at, o.id, c.place
        from ${changes} c join ${changeSets} o on o.id = c.set_id
        where c.table_name = ${table} and c.row_key = s.key and c.row_key_before is not null
          and (o.at, o.id, c.place) < (s.at, s.id, s.place)
        order by o.at desc, o.id desc, c.place desc limit 1) n
      where s.number < ${mostKeys})
    select key, at::text as at, id as set, place from names order by number`);
  return rows.map(({ key: name, at, set, place }, index) => ({
    key: name,
    until: index === 0 ? undefined : { at: new Date(at), set, place },
  }));
}

function isOfName({ key, until }: RowName): ReturnType<typeof and> {
  const own = or(eq(changes.key, key), eq(changes.keyBefore, key));
  return until === undefined ? own : and(own, isUpTo(until));
}

/** Whether an entry is an earlier one than another, or that one. */
function isUpTo({ at, set, place }: HistoryPlace): ReturnType<typeof sql> {
  return sql`(${changeSets.at}, ${changeSets.id}, ${changes.place}) <= (${at.toISOString()}::timestamptz, ${set}, ${place})`;
}

function list(texts: readonly (string | null)[]): ReturnType<typeof sql> {
  return sql`${sql.param(texts)}::text[]`;
}
