import type {
  CheckedAddition,
  CheckedRemoval,
  CheckedRowChange,
  CheckedValue,
  ExpectedValue,
} from '@ephoros/core/change';
import type { TableDescription } from '@ephoros/core/schema';
import {
  compileAdditions,
  compileRemovals,
  compileRowChanges,
  type ExpectedColumn,
  type Statement,
  type WrittenColumn,
  type WrittenTable,
} from '@ephoros/core/sql';
import type { Published } from '../catalog/index.ts';
import type { TextRow } from './writer.ts';

/** A change of a single row. */
export type RowAction = CheckedAddition | CheckedRowChange | CheckedRemoval;

/** Changes of one kind of one table, about the same columns: one statement. */
export interface Batch {
  readonly kind: RowAction['kind'];
  readonly published: Published;
  readonly was: readonly ExpectedColumn[];
  readonly values: readonly WrittenColumn[];
  readonly actions: readonly RowAction[];
}

/** How many rows of a table follow a row that goes, or gets another key. */
export interface FollowedRows {
  readonly table: string;
  readonly kind: 'remove' | 'change';
  readonly count: number;
}

/** What a statement has done to a row; `before` and `after` as all readable columns. */
export type RowResult =
  | {
      readonly kind: 'done';
      /** As it is now; of a row that went as it was. */
      readonly key: readonly string[];
      /** The key that the row had before; of a new row there is none. */
      readonly keyBefore?: readonly string[];
      readonly before?: TextRow;
      readonly after?: TextRow;
      /** The rows of other tables that the database changed with it, as far as the caller sees them. */
      readonly follows?: readonly FollowedRows[];
    }
  /** Names of what was read and no longer stands; `now` is undefined where there is no such row. */
  | { readonly kind: 'conflict'; readonly differing: readonly string[]; readonly now?: TextRow }
  /** A trigger has stored it from being written. */
  | { readonly kind: 'skipped'; readonly keyBefore?: readonly string[] };

/** Rows of one statement at most. */
const mostRows = 5_000;

/** Cuts changes, in their order, into statements; a new row is there before a batch refers to it. */
export function batchesOf(
  actions: readonly RowAction[],
  publishedOf: (table: string) => Published,
): readonly Batch[] {
  const batches: Batch[] = [];
  let last:
    | { readonly shape: string; readonly actions: RowAction[]; readonly refs: Set<string> }
    | undefined;
  for (const action of actions) {
    const was =
      action.kind === 'add'
        ? []
        : [...action.was].map(([name, readValue]) => shapeOf(name, readValue));
    const values = action.kind === 'remove' ? [] : [...action.values.keys()];
    const shape = JSON.stringify([action.kind, action.table.name, was, values]);
    const waits = refsOf(action).some((ref) => last?.refs.has(ref) === true);
    const alone = action.kind === 'add' && values.length === 0;
    if (last?.shape !== shape || waits || alone || last.actions.length >= mostRows) {
      const published = publishedOf(action.table.name);
      last = { shape, actions: [], refs: new Set() };
      batches.push({
        kind: action.kind,
        published,
        was: expectedColumns(was, action.table),
        values: columnsOf(values, action.table),
        actions: last.actions,
      });
    }
    last.actions.push(action);
    if (action.kind === 'add' && action.ref !== undefined) last.refs.add(action.ref);
  }
  return batches;
}

function refsOf(action: RowAction): readonly string[] {
  if (action.kind === 'remove') return [];
  return [...action.values.values()].flatMap((value) => (isReference(value) ? [value.ref] : []));
}

export function isReference(
  value: CheckedValue | undefined,
): value is { readonly ref: string; readonly column: string } {
  return typeof value === 'object' && value !== null;
}

function columnsOf(
  names: readonly string[],
  { columns }: TableDescription,
): readonly WrittenColumn[] {
  return names.flatMap((name) => columns.find((column) => column.name === name) ?? []);
}

interface ExpectedShape {
  readonly name: string;
  readonly exact: boolean;
}

function shapeOf(name: string, readValue: ExpectedValue): ExpectedShape {
  return { name, exact: typeof readValue === 'object' && readValue !== null };
}

function expectedColumns(
  shapes: readonly ExpectedShape[],
  { columns }: TableDescription,
): readonly ExpectedColumn[] {
  return shapes.flatMap(({ name, exact }) => {
    const column = columns.find((one) => one.name === name);
    return column === undefined ? [] : [{ name, type: column.type, exact }];
  });
}

/** The text that a value is compared with. */
function expectedText(readValue: ExpectedValue | undefined): string | null {
  if (typeof readValue !== 'object' || readValue === null) return readValue ?? null;
  return 'exact' in readValue ? readValue.exact : readValue.answered;
}

/** The columns that are read of a table: all, where it is written to; else those that are published. */
export function readableOf({ writing, description }: Published): readonly WrittenColumn[] {
  return writing?.readable ?? description.columns.map(({ name, type }) => ({ name, type }));
}

export function writtenTable(published: Published): WrittenTable {
  const { relation, writing, description } = published;
  const readable = readableOf(published);
  const key = description.key.flatMap((name) => readable.find((one) => one.name === name) ?? []);
  return { relation, locks: writing?.locks === true, key, returned: readable };
}

/** The statement of a batch; `valueOf` knows what references stand for. */
export function compileBatch(
  { kind, published, was, values, actions }: Batch,
  valueOf: (value: CheckedValue | undefined) => string | null,
  asTheyWere: boolean,
): Statement {
  const table = writtenTable(published);
  const given = (action: RowAction): readonly (string | null)[] =>
    action.kind === 'remove' ? [] : values.map(({ name }) => valueOf(action.values.get(name)));
  if (kind === 'add') return compileAdditions(table, values, actions.map(given), asTheyWere);
  const rows = actions.map((rowAction) => ({
    key: rowAction.kind === 'add' ? [] : rowAction.key,
    was:
      rowAction.kind === 'add' ? [] : was.map(({ name }) => expectedText(rowAction.was.get(name))),
    values: given(rowAction),
  }));
  return kind === 'change'
    ? compileRowChanges(table, { was, values }, rows)
    : compileRemovals(table, was, rows);
}

/**
 * What a batch's statement has done, for each of its changes. Undefined where additions cannot be
 * reported from each other, since a trigger has left some out.
 */
export function resultsOf(
  { kind, published, was, actions }: Batch,
  rows: readonly TextRow[],
): readonly RowResult[] | undefined {
  const { key, returned } = writtenTable(published);
  const keyOf = (row: TextRow): readonly string[] =>
    key.map(({ name }) => row[returned.findIndex((one) => one.name === name)] ?? '');
  if (kind === 'add') {
    if (rows.length === 0 && actions.length === 1) return [{ kind: 'skipped' }];
    if (rows.length !== actions.length) return undefined;
    return rows.map((after) => ({ kind: 'done', key: keyOf(after), after }));
  }
  const lines = new Map(rows.map((row) => [Number(row[0]), row.slice(1)]));
  return actions.map((_action, index): RowResult => {
    const line = lines.get(index + 1);
    if (line === undefined) return { kind: 'conflict', differing: [] };
    const differing = was.filter((_column, place) => line[place] !== 't').map(({ name }) => name);
    const before = line.slice(was.length, was.length + returned.length);
    if (differing.length > 0) return { kind: 'conflict', differing, now: before };
    const behind = was.length + returned.length;
    // Of a row that could not be locked it is not known whether a trigger or somebody else was it.
    const unknown = published.writing?.locks === false;
    if (line[behind] !== 't') {
      return unknown
        ? { kind: 'conflict', differing, now: before }
        : { kind: 'skipped', keyBefore: keyOf(before) };
    }
    const keyBefore = keyOf(before);
    if (kind === 'remove') return { kind: 'done', key: keyBefore, keyBefore, before };
    const after = line.slice(behind + 1);
    return { kind: 'done', key: keyOf(after), keyBefore, before, after };
  });
}
