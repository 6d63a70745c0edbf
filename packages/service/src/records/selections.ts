import type { ResolvedSelection } from '@ephoros/core/check';
import { parseExpression, printExpression } from '@ephoros/core/expression';
import { parseSearch, printSearch } from '@ephoros/core/query';
import { and, asc, eq, inArray, lt, sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { LRUCache } from 'lru-cache';
import { newId } from './new-id.ts';
import type { Records } from './records.ts';
import { selectionKeys, selections } from './schema.ts';

/** Ms without use after which a selection is dropped: 30 days. */
const lifetime = 30 * 24 * 3_600_000;
/** Selections of one caller at most, and all their keys: those used longest ago are dropped. */
const mostOfCaller = 200;
const mostKeysOfCaller = 2_000_000;
/** So many times as much where callers have no names. */
const nameless = 20;
/** Ms within which a use is not noted again. */
const noted = 3_600_000;
/** Keys of all selections that are at hand at most. */
const mostInMemory = 4_000_000;

interface InMemory {
  readonly version: number;
  readonly selection: ResolvedSelection;
}

/** Keys to be put among those of a selection, and to be taken from them. */
export interface KeyChange {
  readonly add: readonly string[];
  readonly remove: readonly string[];
}

/** The stored selections; each belongs to its caller, and to nobody else there is no such one. */
export class Selections {
  private readonly records: Records;
  private readonly now: () => number;
  /** As they were read last: the same object as long as they stay the same. */
  private readonly atHand = new LRUCache<string, InMemory>({
    maxSize: mostInMemory,
    sizeCalculation: ({ selection }) => keysOf(selection).length + 1,
  });
  private swept = 0;

  constructor(records: Records, now: () => number = Date.now) {
    this.records = records;
    this.now = now;
  }

  /** Keeps a selection; gives its id. @throws RecordsError, Failure */
  make(caller: string, selection: ResolvedSelection): Promise<string> {
    const id = newId();
    const { filter, search } =
      selection.kind === 'matching' ? selection : { filter: undefined, search: undefined };
    return this.records.use(async (database) => {
      await this.sweep(database);
      const at = new Date(this.now());
      await database.transaction(async (inside) => {
        await inside.insert(selections).values({
          id,
          caller,
          table: selection.table,
          kind: selection.kind,
          filter: filter === undefined ? null : printExpression(filter),
          search: search === undefined ? null : printSearch(search),
          size: keysOf(selection).length,
          createdAt: at,
          usedAt: at,
        });
        await putKeys(inside, id, keysOf(selection));
        await this.dropBeyond(inside, caller);
      });
      return id;
    });
  }

  /** A caller's selection; undefined where there is none. @throws RecordsError, Failure */
  find(id: string, caller: string): Promise<ResolvedSelection | undefined> {
    return this.records.use(async (database) => {
      const [row] = await database
        .select()
        .from(selections)
        .where(and(eq(selections.id, id), eq(selections.caller, caller)));
      if (row === undefined || row.usedAt.getTime() < this.now() - lifetime) return undefined;
      if (row.usedAt.getTime() < this.now() - noted) {
        await database
          .update(selections)
          .set({ usedAt: new Date(this.now()) })
          .where(eq(selections.id, id));
      }
      const known = this.atHand.get(id);
      if (known?.version === row.version) return known.selection;
      const keys = await database
        .select({ key: selectionKeys.key })
        .from(selectionKeys)
        .where(eq(selectionKeys.selection, id))
        .orderBy(asc(selectionKeys.key));
      const selection = selectionOf(
        row,
        keys.map(({ key }) => key),
      );
      if (selection !== undefined) this.atHand.set(id, { version: row.version, selection });
      return selection;
    });
  }

  /** Changes the keys of a caller's selection; false where there is none. */
  change(id: string, caller: string, { add, remove }: KeyChange): Promise<boolean> {
    return this.records.use((database) =>
      database.transaction(async (inside) => {
        // Two who change it at once come one after the other.
        const [row] = await inside
          .update(selections)
          .set({ version: sql`${selections.version} + 1`, usedAt: new Date(this.now()) })
          .where(and(eq(selections.id, id), eq(selections.caller, caller)))
          .returning({ kind: selections.kind });
        if (row === undefined) return false;
        // Of all that match the exceptions are stored.
        const [coming, going] = row.kind === 'keys' ? [add, remove] : [remove, add];
        if (going.length > 0) {
          await inside
            .delete(selectionKeys)
            .where(
              and(
                eq(selectionKeys.selection, id),
                sql`${selectionKeys.key} = any(${sql.param(going)}::text[])`,
              ),
            );
        }
        await putKeys(inside, id, coming);
        await inside
          .update(selections)
          .set({
            size: sql`(select count(*) from ${selectionKeys} where ${selectionKeys.selection} = ${id})`,
          })
          .where(eq(selections.id, id));
        await this.dropBeyond(inside, caller);
        return true;
      }),
    );
  }

  /** Drops a caller's selection; false where there is none. */
  drop(id: string, caller: string): Promise<boolean> {
    this.atHand.delete(id);
    return this.records.use(async (database) => {
      const dropped = await database
        .delete(selections)
        .where(and(eq(selections.id, id), eq(selections.caller, caller)))
        .returning({ id: selections.id });
      return dropped.length > 0;
    });
  }

  /** Drops those of a caller that were used longest ago, where there are more than one caller may have. */
  private async dropBeyond(inside: Pick<NodePgDatabase, 'execute'>, caller: string): Promise<void> {
    // Callers without a name share them.
    const many = caller === '' ? nameless : 1;
    await inside.execute(sql`
      delete from ${selections} where id in (
        select id from (
          select id,
            row_number() over newest as number,
            sum(size) over newest - size as before
          from ${selections} where caller = ${caller}
          window newest as (order by used_at desc, created_at desc, id)) as own
        where number > ${mostOfCaller * many} or before >= ${mostKeysOfCaller * many})`);
  }

  /** Drops what nobody has used for long, now and then. */
  private async sweep(database: NodePgDatabase): Promise<void> {
    if (this.now() - this.swept < noted) return;
    this.swept = this.now();
    const old = database
      .select({ id: selections.id })
      .from(selections)
      .where(lt(selections.usedAt, new Date(this.now() - lifetime)));
    await database.delete(selections).where(inArray(selections.id, old));
  }
}

async function putKeys(
  database: Pick<NodePgDatabase, 'execute'>,
  id: string,
  keys: readonly string[],
): Promise<void> {
  if (keys.length === 0) return;
  await database.execute(
    sql`insert into ${selectionKeys} select ${id}, unnest(${sql.param(keys)}::text[]) on conflict do nothing`,
  );
}

function keysOf(selection: ResolvedSelection): readonly string[] {
  return selection.kind === 'keys' ? selection.keys : selection.except;
}

function selectionOf(
  { kind, table, filter, search }: typeof selections.$inferSelect,
  keys: readonly string[],
): ResolvedSelection | undefined {
  if (kind === 'keys') return { kind, table, keys };
  const read = filter === null ? undefined : parseExpression(filter);
  // What the language cannot say any more is no selection any more.
  if (read !== undefined && 'problems' in read) return undefined;
  return {
    kind,
    table,
    except: keys,
    ...(read && { filter: read.expression }),
    ...(search === null ? {} : { search: parseSearch(search) }),
  };
}
