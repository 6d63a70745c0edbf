import { problem, type Problem } from '../problem/index.ts';
import { parseCursor, type Place } from '../query/index.ts';
import type { ColumnType, TableDescription } from '../schema/index.ts';
import type { Anchor, AnchorRow, CheckedSortTerm } from './checked.ts';
import { hasNotation, isWrittenAs } from './notation.ts';

type CursorPlace = Extract<Place, { kind: 'after' | 'before' }>;

/** The sort a cursor is bound to: its terms, their directions, and where nulls stand. */
export function sortSignature(sort: readonly CheckedSortTerm[]): string {
  return sort
    .map(({ column, descending, nulls }) => {
      const first = column.nullable && nulls === 'first' ? '!' : '';
      return `${descending ? '-' : ''}${column.name}${first}`;
    })
    .join(',');
}

/** Reads a cursor for the sort in force. */
export function checkCursor(
  { kind, token }: CursorPlace,
  table: Pick<TableDescription, 'name' | 'key'>,
  sort: readonly CheckedSortTerm[],
  problems: Problem[],
): Anchor | AnchorRow | undefined {
  const place = { start: 0, end: token.length };
  const refuse = (one: Problem): undefined => {
    problems.push({ ...one, parameter: kind });
    return undefined;
  };
  if (table.key.length === 0) {
    return refuse(problem('cursor-needs-key', { table: table.name }, place));
  }
  const cursor = parseCursor(token);
  if (cursor === undefined) return refuse(problem('malformed-cursor', {}, place));
  if (cursor.sort !== sortSignature(sort)) {
    return refuse(problem('cursor-of-another-sort', {}, place));
  }
  const keyed = table.key.map((name) => sort.find(({ column }) => column.name === name)?.column);
  const columns = cursor.byKey === true ? keyed : sort.map(({ column }) => column);
  const fits = cursor.values.every((value, index) => {
    const column = columns[index];
    if (column === undefined) return false;
    return value === null ? column.nullable : canBe(value, column.type);
  });
  if (!fits || cursor.values.length !== columns.length) {
    return refuse(problem('malformed-cursor', {}, place));
  }
  return cursor.byKey === true ? { kind, key: cursor.values } : { kind, values: cursor.values };
}

/** Whether PostgreSQL may have written this value; what still is none it refuses itself. */
function canBe(value: string, type: ColumnType): boolean {
  if (value.includes('\0')) return false;
  if (type.kind === 'enum') return type.values.includes(value);
  return hasNotation(type) ? isWrittenAs(value, type) : true;
}
