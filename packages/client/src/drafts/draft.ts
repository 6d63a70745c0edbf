import type { Row, Value } from '@ephoros/core/answer';
import { brokenRules, checkChanges, type Change } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import { parseKey, type TableDescription, type Tables } from '@ephoros/core/schema';
import { keyOfRow } from '../chosen-rows.ts';

/** An edit of a row that is not saved yet. */
export interface RowDraft {
  /** The address of a row that is there; `new 1`, `new 2`, … of those to be added. */
  readonly id: string;
  readonly kind: 'added' | 'changed' | 'struck';
  /** The row as it was seen when it was begun; empty of a new one. */
  readonly seen: Row;
  /** The new values; none of a row that is struck. */
  readonly values: Row;
  /** What is shown beside them and not saved, such as the name of a row that is referred to. */
  readonly beside?: Readonly<Record<string, Row>>;
}

/** Why a row could not be saved: what it is now, and whose values are others; null where it is gone. */
export interface DraftConflict {
  readonly columns: readonly string[];
  readonly now: Row | null;
}

/** The ids of rows that are made here. */
export const ids = new WeakMap<Row, string>();

/** A new row as a source shows it: by its id it is known again. */
export function newRow(draft: RowDraft): Row {
  const { id } = draft;
  const row = { ...shownRow({}, draft) };
  ids.set(row, id);
  return row;
}

/** The id of a new row. */
export function isNew(id: string): boolean {
  return id.startsWith('new ');
}

/** A draft of a row that is there, with nothing changed yet. */
export function begun(id: string, row: Row): RowDraft {
  return { id, kind: 'changed', seen: row, values: {} };
}

/** A row with what is drafted of it. */
export function shownRow(row: Row, draft: RowDraft | undefined): Row {
  if (draft === undefined || draft.kind === 'struck') return row;
  return Object.assign({}, row, draft.values, ...Object.values(draft.beside ?? {})) as Row;
}

function sameValue(one: Value, other: Value): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other);
}

/** A draft with another value; undefined where nothing is left to be saved. */
export function withValue(
  draft: RowDraft,
  column: string,
  value: Value,
  also?: Row,
): RowDraft | undefined {
  const { [column]: _last, ...others } = draft.values;
  const { [column]: _shown, ...rest } = draft.beside ?? {};
  const back = draft.kind !== 'added' && sameValue(draft.seen[column] ?? null, value);
  const values = back ? others : { ...draft.values, [column]: value };
  const beside = back || also === undefined ? rest : { ...rest, [column]: also };
  const next = { ...draft, values, ...(draft.beside || also ? { beside } : {}) };
  if (draft.kind === 'added') return next;
  return Object.keys(values).length === 0 ? undefined : { ...next, kind: 'changed' };
}

/** Whether two drafts of a row save the same. */
export function sameDraft(one: RowDraft, other: RowDraft): boolean {
  return one === other || (one.kind === other.kind && sameValue(one.values, other.values));
}

/**
 * A draft after some of its columns were decided in a conflict: by its own values, over what is there
 * now, or by theirs. Undefined where nothing is left to be saved.
 */
export function decided(
  draft: RowDraft,
  now: Row,
  columns: readonly string[],
  whose: 'mine' | 'theirs',
): RowDraft | undefined {
  if (draft.kind === 'struck') {
    return whose === 'theirs' ? undefined : { ...draft, seen: { ...draft.seen, ...now } };
  }
  const theirs = Object.fromEntries(columns.map((name) => [name, now[name] ?? null]));
  let changed: RowDraft | undefined = { ...draft, seen: { ...draft.seen, ...theirs } };
  if (whose === 'mine') return changed;
  for (const [name, value] of Object.entries(theirs)) {
    changed = changed && withValue(changed, name, value);
  }
  return changed;
}

/**
 * What was typed while a draft was on its way, as a draft of the row as it was saved; undefined where
 * that is nothing.
 */
export function leftAfter(
  now: RowDraft,
  sent: RowDraft,
  row: Row,
  { key }: TableDescription,
): RowDraft | undefined {
  const id = keyOfRow(row, key);
  if (id === undefined) return undefined;
  let rest: RowDraft | undefined;
  for (const [name, value] of Object.entries(now.values)) {
    if (sameValue(value, sent.values[name] ?? null)) continue;
    rest = withValue(rest ?? begun(id, row), name, value);
  }
  return rest;
}

/** The change that saves a draft. */
export function changeOf({ id, kind, seen, values }: RowDraft, table: TableDescription): Change {
  const key = parseKey(id) ?? [id];
  switch (kind) {
    case 'added':
      return { kind: 'add', values };
    case 'changed': {
      // What was not read is not compared.
      const was = picked(seen, Object.keys(values));
      return { kind: 'change', key, was, values };
    }
    case 'struck': {
      const own = table.columns.map(({ name }) => name);
      return { kind: 'remove', key, was: picked(seen, own) };
    }
    default:
      throw new Error(`unknown draft ${JSON.stringify(kind satisfies never)}`);
  }
}

function picked(row: Row, names: readonly string[]): Row {
  const there = names.filter((name) => Object.hasOwn(row, name));
  return Object.fromEntries(there.map((name) => [name, row[name] ?? null]));
}

const checked = new WeakMap<RowDraft, readonly Problem[]>();

/** What is wrong with a draft, as far as that is seen without a database. */
export function problemsOf(
  draft: RowDraft,
  table: TableDescription,
  tables: Tables = () => undefined,
): readonly Problem[] {
  const known = checked.get(draft);
  if (known !== undefined) return known;
  const found: Problem[] = checkChanges([changeOf(draft, table)], { table, tables }).problems.map(
    ({ change: _change, ...one }) => one,
  );
  // All values of the row are known here.
  if (found.length === 0 && draft.kind === 'changed') {
    for (const { problem, columns } of brokenRules(
      { ...draft.seen, ...draft.values },
      table,
      tables,
    )) {
      const column = columns.find((name) => Object.hasOwn(draft.values, name)) ?? columns[0];
      found.push({ ...problem, ...(column === undefined ? {} : { column }) });
    }
  }
  checked.set(draft, found);
  return found;
}
