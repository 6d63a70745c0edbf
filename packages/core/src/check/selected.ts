import { storedSelectionId, mostSelected, type Span } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { parseKey, typeName, type TableDescription } from '../schema/index.ts';
import type { CheckedColumn, CheckedExpression } from './checked.ts';
import { keyValue } from './key-value.ts';
import type { ResolvedSelection } from './resolved-selections.ts';
import { ownColumns } from './lookup.ts';
import type { Call } from './reporter.ts';

type Selected = Extract<CheckedExpression, { kind: 'selected' }>;

/** What SELECTED names: rows by their keys, and stored selections by their ids, each with its place. */
export interface NamedRows {
  readonly keys: readonly { readonly key: string; readonly span: Span }[];
  readonly storedSelections: readonly { readonly id: string; readonly span: Span }[];
}

/** The members of `SELECTED('17', 'stored:…')`; undefined with a problem at its place. */
export function membersOf({ args }: Call, problems: Problem[]): NamedRows | undefined {
  const keys: NamedRows['keys'][number][] = [];
  const storedSelections: NamedRows['storedSelections'][number][] = [];
  const found: Problem[] = [];
  if (args.length > mostSelected) {
    found.push(problem('too-many-members', { most: mostSelected }, args[mostSelected]?.span));
  }
  for (const arg of args.slice(0, mostSelected)) {
    if (arg.kind !== 'text') {
      const facts = { expected: 'a key in single quotes', found: 'something else' };
      found.push(problem('type-mismatch', facts, arg.span));
      continue;
    }
    const id = storedSelectionId(arg.value);
    if (id === undefined) keys.push({ key: arg.value, span: arg.span });
    else storedSelections.push({ id, span: arg.span });
  }
  problems.push(...found);
  return found.length > 0 ? undefined : { keys, storedSelections };
}

/**
 * The rows of these keys, each spelled as in the address of a row (parts percent-encoded, joined by
 * commas), none for none. Undefined with a problem at its place.
 */
export function selectedRows(
  keys: NamedRows['keys'],
  table: TableDescription,
  span: Span,
  problems: Problem[],
): Selected | undefined {
  const { key } = table;
  const columns = keyColumns(table);
  if (columns === undefined) {
    problems.push(problem('no-key', { table: table.name }, span));
    return undefined;
  }
  const found: Problem[] = [];
  const read = keys.map(({ key: spelled, span: place }) =>
    keyParts(spelled, columns, key, place, found),
  );
  problems.push(...found);
  if (found.length > 0) return undefined;
  return { kind: 'selected', columns, keys: read.filter((parts) => parts !== undefined) };
}

/**
 * Whether these are keys of a table: nothing, or the problems, at most `most` of them, each with the
 * place of its key among the others.
 */
export function checkKeys(
  keys: readonly string[],
  table: TableDescription,
  most: number,
): readonly { readonly index: number; readonly problem: Problem }[] {
  const columns = keyColumns(table);
  if (columns === undefined)
    return [{ index: 0, problem: problem('no-key', { table: table.name }) }];
  const wrong: { index: number; problem: Problem }[] = [];
  for (const [index, spelled] of keys.entries()) {
    const found: Problem[] = [];
    keyParts(spelled, columns, table.key, undefined, found);
    wrong.push(...found.map((one) => ({ index, problem: one })));
    if (wrong.length >= most) break;
  }
  return wrong.slice(0, most);
}

const checkedBefore = new WeakMap<ResolvedSelection, WeakMap<TableDescription, Selected>>();

/** The keys of a stored selection: read once as long as neither it nor the table is another one. */
export function storedSelectionRows(
  selection: ResolvedSelection,
  table: TableDescription,
  span: Span,
  problems: Problem[],
): Selected | undefined {
  const known = checkedBefore.get(selection) ?? new WeakMap<TableDescription, Selected>();
  checkedBefore.set(selection, known);
  const before = known.get(table);
  if (before !== undefined) return before;
  const texts = selection.kind === 'keys' ? selection.keys : selection.except;
  const found: Problem[] = [];
  const read = selectedRows(
    texts.map((key) => ({ key, span })),
    table,
    span,
    found,
  );
  if (read === undefined) {
    const message = found[0]?.message ?? '';
    problems.push(problem('selection-outdated', { message }, span));
    return undefined;
  }
  known.set(table, read);
  return read;
}

/** The columns of a table's key; undefined where it has none that can be visible. */
function keyColumns(table: TableDescription): readonly CheckedColumn[] | undefined {
  const columns = table.key.flatMap((name) => ownColumns(table).get(name) ?? []);
  return columns.length === 0 || columns.length < table.key.length ? undefined : columns;
}

function keyParts(
  spelled: string,
  columns: readonly CheckedColumn[],
  key: readonly string[],
  span: Span | undefined,
  problems: Problem[],
): Selected['keys'][number] | undefined {
  const texts = parseKey(spelled);
  if (texts?.length !== columns.length) {
    const facts = { expected: key.join(', '), found: texts?.length ?? 0 };
    problems.push(problem('malformed-key', facts, span));
    return undefined;
  }
  return columns.map(({ type }, index) => {
    const own = texts[index] ?? '';
    const value = keyValue(own, type);
    const known = type.kind !== 'enum' || type.values.includes(own);
    if (value === undefined || !known) {
      const facts = { type: typeName(type), notation: 'rows hold it' };
      problems.push(problem('invalid-value', facts, span));
    }
    return { text: own, value: value ?? '' };
  });
}
