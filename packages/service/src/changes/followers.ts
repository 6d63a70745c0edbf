import { mostChanges } from '@ephoros/core/change';
import {
  compileCurrentRows,
  compileHeldRows,
  compileMayRead,
  compileReferringCounts,
  compileReferringRows,
  type WrittenColumn,
} from '@ephoros/core/sql';
import type { Catalog, Published, Referring } from '../catalog/index.ts';
import type { LoggedChange } from '../records/index.ts';
import { readableOf, writtenTable } from './batch.ts';
import type { TextRow, Transaction } from './writer.ts';

/** What happens to the rows that are referred to. */
export type Cause =
  | { readonly kind: 'remove' }
  /** These columns get other values. */
  | { readonly kind: 'change'; readonly columns: readonly string[] };

/** A row that the database changes by a rule of a foreign key. */
export interface Follower {
  /** The row that it follows in the end, by its place among those that were given. */
  readonly root: number;
  readonly published: Published;
  readonly kind: 'remove' | 'change';
  readonly rule: NonNullable<LoggedChange['rule']>;
  /** The columns that change; all of a row that goes. */
  readonly columns: readonly string[];
  readonly key: readonly string[];
  readonly before: TextRow;
  /** Whether the caller sees the row. */
  readonly shown: boolean;
}

/** Rows of a table that is not published: nothing is known of them but that they are there. */
export interface UnknownFollowers {
  readonly root: number;
  readonly rule: NonNullable<LoggedChange['rule']>;
}

export interface Followers {
  /** In an order in which the changes could be made one by one: what refers comes first. */
  readonly rows: readonly Follower[];
  readonly unknown: readonly UnknownFollowers[];
}

const none: Followers = { rows: [], unknown: [] };

/** Whether rows of other tables may follow those of a table. */
export function hasFollowers({ referring }: Catalog, table: string, cause: Cause): boolean {
  return referring(table).some((one) => ruleOf(one, cause) !== undefined);
}

/** More rows would follow than one set may change. */
export class TooManyFollowers extends Error {}

/** Finds the rows that follow others, before they do. They are locked where that is possible. */
export class FollowerSearch {
  private readonly catalog: Catalog;
  private readonly inside: Transaction;
  private readonly found = new Set<string>();

  constructor(catalog: Catalog, inside: Transaction) {
    this.catalog = catalog;
    this.inside = inside;
  }

  /** @throws TooManyFollowers, Failure */
  async of(
    published: Published,
    keys: readonly (readonly string[])[],
    cause: Cause,
    roots: readonly number[] = keys.map((_key, index) => index),
  ): Promise<Followers> {
    if (keys.length === 0) return none;
    const rows: Follower[] = [];
    const unknown: UnknownFollowers[] = [];
    for (const referring of this.catalog.referring(published.description.name)) {
      const action = ruleOf(referring, cause);
      if (action === undefined) continue;
      const rule = `${cause.kind === 'remove' ? 'delete' : 'update'} ${action}` as const;
      const whole = referring.table === undefined ? undefined : this.catalog.whole(referring.table);
      const columns = whole === undefined ? [] : readableOf(whole);
      const needed = [...columns.map(({ name }) => name), ...referring.columns];
      if (whole?.writing === undefined && !(await this.mayRead(referring, needed))) continue;
      if (whole === undefined || whole.description.key.length === 0) {
        const { rows: counts } = await this.inside.run(
          compileReferringCounts(writtenTable(published), followed(referring), keys),
        );
        for (const [place] of counts) unknown.push({ root: rootOf(roots, place), rule });
        continue;
      }
      const own = await this.rowsOf(published, whole, { referring, action, rule, keys, roots });
      const next: Cause =
        own[0]?.kind === 'remove'
          ? { kind: 'remove' }
          : { kind: 'change', columns: referring.columns };
      const further = await this.of(
        whole,
        own.map(({ key }) => key),
        next,
        own.map(({ root }) => root),
      );
      rows.push(...further.rows, ...own);
      unknown.push(...further.unknown);
    }
    return { rows, unknown };
  }

  private async rowsOf(
    published: Published,
    whole: Published,
    { referring, action, rule, keys, roots }: Step,
  ): Promise<Follower[]> {
    const columns = readableOf(whole);
    const { rows } = await this.inside.run(
      compileReferringRows(
        writtenTable(published),
        { ...followed(referring), locks: whole.writing?.locks === true },
        columns,
        keys,
      ),
    );
    const goes = rule === 'delete cascade';
    const own = rows.flatMap(([place, ...before]): Follower[] => {
      const key = keyIn(whole, columns, before);
      const same = JSON.stringify([whole.description.name, key, goes ? '' : referring.columns]);
      if (this.found.has(same)) return [];
      this.found.add(same);
      return [
        {
          root: rootOf(roots, place),
          published: whole,
          kind: goes ? 'remove' : 'change',
          rule,
          columns: goes ? columns.map(({ name }) => name) : referring.columns,
          key,
          before,
          shown: true,
        },
      ];
    });
    if (this.found.size > mostChanges) throw new TooManyFollowers(action);
    const visibleRange = await this.shown(whole, own);
    return own.map((one, index) => ({ ...one, shown: visibleRange(index) }));
  }

  /** Which of some rows the caller sees. */
  private async shown(
    { description: { name } }: Published,
    rows: readonly Follower[],
  ): Promise<(index: number) => boolean> {
    const description = this.catalog.describe(name);
    if (description === undefined || rows.length === 0) return () => false;
    if (this.catalog.locate(name).only === undefined) return () => true;
    const whole = rows[0]?.published;
    const key = whole === undefined ? [] : writtenTable(whole).key;
    const keys = rows.map((one) => one.key);
    const { rows: held } = await this.inside.run(
      compileHeldRows(description, key, keys, [], this.catalog.locate),
    );
    const places = new Set(held.map(([place]) => Number(place) - 1));
    return (index) => places.has(index);
  }

  private async mayRead({ relation }: Referring, columns: readonly string[]): Promise<boolean> {
    const { rows } = await this.inside.run(compileMayRead(relation, columns));
    return rows[0]?.[0] === 't';
  }

  /** The rows as they are once the database has changed them, by their places; undefined where they are gone. */
  async after(
    rows: readonly Follower[],
    keyAfter: (one: Follower) => readonly string[],
  ): Promise<ReadonlyMap<Follower, TextRow>> {
    const found = new Map<Follower, TextRow>();
    const byTable = new Map<Published, Follower[]>();
    for (const one of rows) {
      byTable.set(one.published, [...(byTable.get(one.published) ?? []), one]);
    }
    for (const [published, own] of byTable) {
      const { rows: current } = await this.inside.run(
        compileCurrentRows(
          { ...writtenTable(published), locks: false },
          readableOf(published),
          own.map(keyAfter),
        ),
      );
      for (const [place, ...texts] of current) {
        const one = own[Number(place) - 1];
        if (one !== undefined) found.set(one, texts);
      }
    }
    return found;
  }
}

interface Step {
  readonly referring: Referring;
  readonly action: NonNullable<Referring['onDelete']>;
  readonly rule: Follower['rule'];
  readonly keys: readonly (readonly string[])[];
  readonly roots: readonly number[];
}

function ruleOf(
  { onDelete, onUpdate, references }: Referring,
  cause: Cause,
): Referring['onDelete'] {
  if (cause.kind === 'remove') return onDelete;
  return references.some((name) => cause.columns.includes(name)) ? onUpdate : undefined;
}

function followed({ relation, columns, references }: Referring): {
  readonly relation: Referring['relation'];
  readonly locks: boolean;
  readonly columns: readonly string[];
  readonly references: readonly string[];
} {
  return { relation, locks: false, columns, references };
}

/** The key in a row of all readable columns. */
export function keyIn(
  { description }: Published,
  columns: readonly WrittenColumn[],
  row: TextRow,
): readonly string[] {
  return description.key.map(
    (name) => row[columns.findIndex((column) => column.name === name)] ?? '',
  );
}

function rootOf(roots: readonly number[], place: string | null | undefined): number {
  return roots[Number(place) - 1] ?? 0;
}
