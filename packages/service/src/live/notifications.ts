import type { LiveChanges } from '@ephoros/core/answer';
import type { CheckedQuery } from '@ephoros/core/check';
import type { ColumnDescription } from '@ephoros/core/schema';
import { compileHeldRows, type Statement } from '@ephoros/core/sql';
import type { Catalog } from '../catalog/index.ts';
import { valueEncoder } from '../encode/index.ts';
import type { Database } from '../run/index.ts';
import type { RowEvents } from './pending.ts';

/** A question as callers with the same rules see it. */
export interface Seen {
  readonly query: CheckedQuery;
  readonly catalog: Catalog;
}

/** The columns of the key, in its order; none where the table has no key. */
export function keyOf({ query: { table } }: Seen): readonly ColumnDescription[] {
  return table.key.flatMap((name) => table.columns.find((column) => column.name === name) ?? []);
}

/** Which rows there are of some keys, from the first on: of the question, or of all that is visible of the table. */
export function compileMatchTest(
  request: Seen,
  keys: readonly (readonly string[])[],
  which: 'of the question' | 'all',
  given?: string,
): Statement {
  const { query, catalog } = request;
  const match = which === 'all' ? undefined : query;
  return compileHeldRows(query.table, keyOf(request), keys, [], catalog.locate, match, given);
}

/**
 * What a watcher of a query is notified of written rows; undefined where none concerns it. Of rows that
 * they may not see nothing is reported, not even that they are gone. @throws Failure
 */
export async function changesFor(
  request: Seen,
  actions: RowEvents,
  database: Database,
): Promise<LiveChanges | undefined> {
  const { table } = request.query;
  const options = { table: table.name };
  const written = [...actions].map(([text, action]) => ({
    key: JSON.parse(text) as readonly string[],
    ...action,
  }));
  const keys = written.map(({ key }) => key);
  const known = written.flatMap(({ before }, index) =>
    before === undefined ? [] : [{ index, before }],
  );
  const knownKeys = known.map(({ index }) => keys[index] ?? []);
  const given = `[${known.map(({ before }) => before).join(',')}]`;
  const [those, visible, were] = await Promise.all([
    database.run(compileMatchTest(request, keys, 'of the question'), options),
    database.run(compileMatchTest(request, keys, 'all'), options),
    known.length === 0
      ? { rows: [] }
      : database.run(compileMatchTest(request, knownKeys, 'of the question', given), options),
  ]);
  const are = numbersIn(those.rows);
  const sees = numbersIn(visible.rows);
  const matched = numbersIn(were.rows);
  const before = new Map(known.map(({ index }, at) => [index, matched.has(at)]));
  const isWhole = request.catalog.locate(table.name).only === undefined;
  const added: string[][] = [];
  const changed: string[][] = [];
  const removed: string[][] = [];
  const address = addressOf(keyOf(request));
  const shown = new Set(table.columns.map(({ name }) => name));
  for (const [index, { key, did, columns }] of written.entries()) {
    const was = before.get(index);
    // What changed is hidden from the caller, who sees the row as before.
    const changes = columns && [...columns];
    const isHidden = changes?.some((name) => shown.has(name)) === false && changes.length > 0;
    if (isHidden && was === true && are.has(index)) continue;
    // Where it is not known how a row was: a new one never was, another one may have been.
    if (are.has(index)) ((was ?? did !== 'add') ? changed : added).push(address(key));
    else if (was ?? (did !== 'add' && (sees.has(index) || isWhole))) removed.push(address(key));
  }
  const isNothing = added.length + changed.length + removed.length === 0;
  return isNothing ? undefined : { added, changed, removed };
}

/** A key as answers and addresses have it, from PostgreSQL's text of its parts. */
function addressOf(columns: readonly ColumnDescription[]): (key: readonly string[]) => string[] {
  const encoders = columns.map(({ type }) =>
    // As a text these are words, and not the letters of an answer.
    type.kind === 'boolean' ? JSON.stringify : valueEncoder(type),
  );
  return (key) => key.map((text, at) => String(JSON.parse(encoders[at]?.(text) ?? '""')));
}

/** Rows by their numbers, from 0. */
function numbersIn(rows: readonly (readonly (string | null)[])[]): ReadonlySet<number> {
  return new Set(rows.map(([place]) => Number(place) - 1));
}
