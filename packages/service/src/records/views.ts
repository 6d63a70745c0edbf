import type { SavedView } from '@ephoros/core/view';
import { and, asc, eq, ne, or, sql, type SQL } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { newId } from './new-id.ts';
import type { Records } from './records.ts';
import { views } from './schema.ts';

/** Views of a table that are stored for one caller at most. */
export const mostViews = 1_000;

/** A view as it is stored; its `view` is read by anyone who shows it. */
export type ViewRecord = typeof views.$inferSelect;

/** What is stored of a view next to its id, its version and its time. */
export interface ViewContent {
  readonly table: string;
  readonly name: string;
  readonly note: string;
  readonly view: SavedView;
  readonly shared: boolean;
  readonly first: boolean;
}

/** Which views of those that a caller sees. */
export interface WantedViews {
  /** Published names; those of other tables are not reported. */
  readonly tables: readonly string[];
  /** Part of a name or a note, letter case ignored. */
  readonly search?: string | undefined;
  /** Only those that a table opens with. */
  readonly first?: boolean;
  readonly limit: number;
  /** Behind this one. */
  readonly after?: { readonly name: string; readonly id: string } | undefined;
}

/** Why a view was not stored or changed. */
export type Unkept = 'name-taken' | 'too-many';

/**
 * The saved views. A caller sees own ones and shared ones, and changes own ones; `undefined` is a caller
 * without a name, who sees shared ones alone.
 */
export class Views {
  private readonly records: Records;
  private readonly now: () => number;

  constructor(records: Records, now: () => number = Date.now) {
    this.records = records;
    this.now = now;
  }

  /** Keeps a view. @throws RecordsError, Failure */
  make(caller: string, content: ViewContent): Promise<ViewRecord | Unkept> {
    return this.unlessTaken(async (database) => {
      const { table } = content;
      const own = and(eq(views.caller, caller), eq(views.table, table));
      if ((await database.$count(views, own)) >= mostViews) return 'too-many';
      const id = newId(12);
      if (content.first) await endFirst(database, { caller, ...content }, id);
      const row = { id, caller, ...content, view: JSON.stringify(content.view) };
      const changedAt = new Date(this.now());
      const [made] = await database
        .insert(views)
        .values({ ...row, changedAt })
        .returning();
      if (made === undefined) throw new Error('what was kept is not there');
      return made;
    });
  }

  /** A view that a caller sees. @throws RecordsError, Failure */
  find(id: string, caller: string | undefined): Promise<ViewRecord | undefined> {
    return this.records.use(async (database) => {
      const [row] = await database
        .select()
        .from(views)
        .where(and(eq(views.id, id), visibleTo(caller)));
      return row;
    });
  }

  /** The views that a caller sees, by name. @throws RecordsError, Failure */
  list(caller: string | undefined, wanted: WantedViews): Promise<readonly ViewRecord[]> {
    const { tables, search, first, limit, after } = wanted;
    const lower = sql`lower(${views.name})`;
    return this.records.use((database) =>
      database
        .select()
        .from(views)
        .where(
          and(
            visibleTo(caller),
            sql`${views.table} = any(${sql.param(tables)}::text[])`,
            first === true ? eq(views.first, true) : undefined,
            search === undefined
              ? undefined
              : sql`position(lower(${search}) in lower(${views.name} || E'\n' || ${views.note})) > 0`,
            after && sql`(${lower}, ${views.id}) > (lower(${after.name}), ${after.id})`,
          ),
        )
        .orderBy(lower, asc(views.id))
        .limit(limit),
    );
  }

  /**
   * Changes a caller's view where it still has this version, whichever it has where none is named;
   * undefined where there is none such.
   */
  change(
    id: string,
    caller: string,
    change: Partial<ViewContent>,
    version: number | undefined,
  ): Promise<ViewRecord | Unkept | undefined> {
    const { view, ...rest } = change;
    return this.unlessTaken(async (database) => {
      const [before] = await database
        .select()
        .from(views)
        .where(and(eq(views.id, id), eq(views.caller, caller), ofVersion(version)))
        .for('update');
      if (before === undefined) return undefined;
      const after = { ...before, ...rest };
      if (after.first) await endFirst(database, after, id);
      const [changed] = await database
        .update(views)
        .set({
          ...rest,
          ...(view && { view: JSON.stringify(view) }),
          version: before.version + 1,
          changedAt: new Date(this.now()),
        })
        .where(eq(views.id, id))
        .returning();
      return changed;
    });
  }

  /** Drops a caller's view where it has this version; false where there is none such. */
  drop(id: string, caller: string, version: number | undefined): Promise<boolean> {
    return this.records.use(async (database) => {
      const dropped = await database
        .delete(views)
        .where(and(eq(views.id, id), eq(views.caller, caller), ofVersion(version)))
        .returning({ id: views.id });
      return dropped.length > 0;
    });
  }

  /** One after the other, so that two first views, or names, are not made at once. */
  private unlessTaken<Result>(
    work: (database: Inside) => Promise<Result>,
  ): Promise<Result | 'name-taken'> {
    return this.records.use(async (database) => {
      try {
        return await database.transaction(async (inside) => {
          await inside.execute(sql`lock table ${views} in share row exclusive mode`);
          return work(inside);
        });
      } catch (thrown) {
        const cause: unknown = (thrown as { cause?: unknown }).cause ?? thrown;
        const { code, constraint } = cause as { code?: unknown; constraint?: unknown };
        if (code === '23505' && constraint === 'views_name') return 'name-taken';
        throw thrown;
      }
    });
  }
}

type Inside = Parameters<Parameters<NodePgDatabase['transaction']>[0]>[0];

function visibleTo(caller: string | undefined): SQL | undefined {
  return caller === undefined
    ? eq(views.shared, true)
    : or(eq(views.caller, caller), eq(views.shared, true));
}

function ofVersion(version: number | undefined): SQL | undefined {
  return version === undefined ? undefined : eq(views.version, version);
}

/** The view that its table has opened with so far is no longer first. */
async function endFirst(
  database: Inside,
  { table, caller, shared }: Pick<ViewRecord, 'table' | 'caller' | 'shared'>,
  id: string,
): Promise<void> {
  await database
    .update(views)
    .set({ first: false })
    .where(
      and(
        eq(views.table, table),
        eq(views.first, true),
        eq(views.shared, shared),
        shared ? undefined : eq(views.caller, caller),
        ne(views.id, id),
      ),
    );
}
