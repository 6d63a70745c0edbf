import { printAnswer, type Row, type Value } from '@ephoros/core/answer';
import { brokenRules, checkChanges, type Change } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import { parseKey, type TableDescription, type Tables } from '@ephoros/core/schema';
import { keyOfRow } from '../chosen-rows.ts';

/** An edit of a row that is not saved yet. */
export interface RowDraft {
  /** The address of a row that is there; `new 1`, `new 2`, … of those to be added. */
  readonly id: string;
  readonly kind: 'added' | 'changed' | 'struck';
  /** The row as it was read when it was begun; empty of a new one. */
  readonly observed: Row;
  /** The new values; none of a row that is struck. */
  readonly values: Row;
  /** What is shown next to them and not saved, such as the name of a row that is referred to. */
  readonly rowLabels?: Readonly<Record<string, Row>>;
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
  return { id, kind: 'changed', observed: row, values: {} };
}

/** A row with what is drafted of it. */
export function shownRow(row: Row, draft: RowDraft | undefined): Row {
  if (draft === undefined || draft.kind === 'struck') return row;
  return Object.assign({}, row, draft.values, ...Object.values(draft.rowLabels ?? {})) as Row;
}

function sameValue(one: Value, other: Value): boolean {
  return one === other || printAnswer(one) === printAnswer(other);
}

/** A draft with another value; undefined where nothing is left to be saved. */
export function withValue(
  draft: RowDraft,
  column: string,
  value: Value,
  also?: Row,
): RowDraft | undefined {
  const { [column]: _last, ...others } = draft.values;
  const { [column]: _shown, ...rest } = draft.rowLabels ?? {};
  const back = draft.kind !== 'added' && sameValue(draft.observed[column] ?? null, value);
  const values = back ? others : { ...draft.values, [column]: value };
  const labels = back || also === undefined ? rest : { ...rest, [column]: also };
  const next = { ...draft, values, ...(draft.rowLabels || also ? { rowLabels: labels } : {}) };
  if (draft.kind === 'added') return next;
  return Object.keys(values).length === 0 ? undefined : { ...next, kind: 'changed' };
}

/** Whether two drafts of a row save the same. */
export function sameDraft(one: RowDraft, other: RowDraft): boolean {
  if (one === other) return true;
  const names = Object.keys(one.values);
  return (
    one.kind === other.kind &&
    names.length === Object.keys(other.values).length &&
    names.every(
      (name) =>
        Object.hasOwn(other.values, name) &&
        sameValue(one.values[name] ?? null, other.values[name] ?? null),
    )
  );
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
    return whose === 'theirs' ? undefined : { ...draft, observed: { ...draft.observed, ...now } };
  }
  const theirs = Object.fromEntries(columns.map((name) => [name, now[name] ?? null]));
  let changed: RowDraft | undefined = { ...draft, observed: { ...draft.observed, ...theirs } };
  if (whose === 'mine') return changed;
  for (const [name, value] of Object.entries(theirs)) {
    changed = changed && withValue(changed, name, value);
  }
  return changed;
}

/** Whether a row is just as a draft wants it: a conflict with it is none. */
export function isSaved({ kind, values }: RowDraft, { now }: DraftConflict): boolean {
  if (kind === 'struck') return now === null;
  if (kind === 'added' || now === null) return false;
  return Object.entries(values).every(([name, value]) => sameValue(now[name] ?? null, value));
}

/**
 * What is still to be saved of a row once a draft of it is: the present draft, as one of the row as
 * it was saved. Without a present draft the row is wanted as it was before; that is a draft as well.
 * `row` is the row by now, null where it is gone or not known. Undefined where nothing is left.
 */
export function leftAfter(
  draft: RowDraft | undefined,
  sent: RowDraft,
  row: Row | null,
  table: TableDescription | undefined,
): RowDraft | undefined {
  if (draft !== undefined && sameDraft(draft, sent)) return undefined;
  if (sent.kind === 'struck') {
    // The row is gone and wanted again.
    const columns = table?.columns.filter(({ writing }) => writing?.add === true) ?? [];
    const names = columns.map(({ name }) => name);
    const values = { ...picked(sent.observed, names), ...draft?.values };
    return { id: `new ${sent.id}`, kind: 'added', observed: {}, values };
  }
  const key = row !== null && table !== undefined ? keyOfRow(row, table.key) : undefined;
  const id = key ?? sent.id;
  if (sent.kind === 'added' && row === null) return undefined;
  const observed = row ?? { ...sent.observed, ...sent.values };
  if (draft?.kind === 'struck' || (draft === undefined && sent.kind === 'added')) {
    return { id, kind: 'struck', observed, values: {} };
  }
  let rest: RowDraft | undefined;
  const names = new Set([...Object.keys(sent.values), ...Object.keys(draft?.values ?? {})]);
  for (const name of names) {
    const isDrafted = draft !== undefined && Object.hasOwn(draft.values, name);
    if (!isDrafted && !Object.hasOwn(sent.observed, name)) continue;
    const value = (isDrafted ? draft.values[name] : sent.observed[name]) ?? null;
    if (Object.hasOwn(sent.values, name) && sameValue(value, sent.values[name] ?? null)) continue;
    rest = withValue(rest ?? begun(id, observed), name, value, draft?.rowLabels?.[name]);
  }
  return rest;
}

/** The change that saves a draft. */
export function changeOf(
  { id, kind, observed, values }: RowDraft,
  table: TableDescription,
): Change {
  const key = parseKey(id) ?? [id];
  switch (kind) {
    case 'added':
      return { kind: 'add', values };
    case 'changed': {
      // What was not read is not compared.
      const was = picked(observed, Object.keys(values));
      return { kind: 'change', key, was, values };
    }
    case 'struck': {
      const own = table.columns.map(({ name }) => name);
      return { kind: 'remove', key, was: picked(observed, own) };
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

/** What is wrong with a draft, as far as that is visible without a database. */
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
      { ...draft.observed, ...draft.values },
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
