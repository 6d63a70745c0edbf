import {
  sortSignature,
  type CheckedGrouping,
  type CheckedQuery,
  type CheckedWindow,
} from '@ephoros/core/check';
import { printCursor } from '@ephoros/core/query';
import { cursorColumns } from '@ephoros/core/sql';
import type { Answer } from '../run/index.ts';

type Row = Answer['rows'][number];

/** Writes a cursor at a row. */
export type CursorWriter = (row: Row) => string;

/** The rows of a window in the query's order, and the cursors at its ends. */
export interface RowsWindow {
  readonly rows: readonly Row[];
  /** A cursor just after the last row; null where the result ends, or has no key. */
  readonly next: string | null;
  /** A cursor just before the first row; null where the result begins. */
  readonly previous: string | null;
}

/**
 * Lays out what `compileRows` or `compileGroups` gave for the query as it was walked, which may
 * have come to the window another way than it was requested: one row more than the window, and
 * in reverse before a cursor or the end. Without a key there is no cursor.
 */
export function layOut(
  query: CheckedWindow,
  walked: CheckedWindow,
  answer: Pick<Answer, 'rows'> & Partial<Pick<Answer, 'cut'>>,
  cursor: CursorWriter | undefined,
): RowsWindow {
  const more = answer.cut === true || answer.rows.length > walked.limit;
  const reverse = walked.anchor !== undefined && walked.anchor.kind !== 'after';
  const remaining = answer.rows.slice(0, walked.limit);
  const rows = reverse ? [...remaining].reverse() : remaining;
  const [first] = rows;
  const last = rows.at(-1);
  if (first === undefined || last === undefined || cursor === undefined) {
    return { rows, next: null, previous: null };
  }
  // In reverse the window was come to from behind: only at the very end nothing follows.
  const goesOn = reverse ? walked.anchor.kind === 'before' || walked.offset > 0 : more;
  const hasBefore = reverse
    ? more || query.offset > 0
    : query.anchor !== undefined || query.offset > 0;
  return { rows, next: goesOn ? cursor(last) : null, previous: hasBefore ? cursor(first) : null };
}

/** Cursors at the rows that `compileRows` gives; undefined where the table has no key. */
export function rowCursor(query: CheckedQuery): CursorWriter | undefined {
  const { columns } = query;
  const further = cursorColumns(query);
  // Those further ones first: of what was cut they have the whole.
  const placeOf = (name: string): number => {
    const place = further.findIndex((column) => column.name === name);
    if (place !== -1) return columns.length + place;
    return columns.findIndex((column) => column.name === name);
  };
  return boundedCursor(query, placeOf);
}

/** Cursors at the rows that `compileJsonRows` gives: behind the JSON stand the sort's columns. */
export function jsonRowCursor(query: CheckedQuery): CursorWriter | undefined {
  return boundedCursor(
    query,
    (name) => 1 + query.sort.findIndex(({ column }) => column.name === name),
  );
}

function boundedCursor(
  query: CheckedQuery,
  placeOf: (name: string) => number,
): CursorWriter | undefined {
  const { table, sort } = query;
  if (table.key.length === 0) return undefined;
  const whole = cursorWriter(
    query,
    sort.map(({ column }) => placeOf(column.name)),
  );
  const keys = table.key.map(placeOf);
  const signature = sortSignature(sort);
  return (row) => {
    const token = whole(row);
    if (token.length <= mostToken) return token;
    const values = keys.map((place) => row[place] ?? null);
    return printCursor({ sort: signature, values, byKey: true });
  };
}

/** Characters of a cursor; past that it holds the row's key alone, and the row is looked up. */
const mostToken = 1_500;

/** Cursors at the lines that `compileGroups` gives. */
export function lineCursor(grouping: CheckedGrouping): CursorWriter {
  return cursorWriter(grouping, linePlaces(grouping));
}

/** Where in a line the values of the sort's terms stand. */
export function linePlaces({ sort, aggregates, hidden }: CheckedGrouping): readonly number[] {
  const names = ['value', 'count', 'below', ...[...aggregates, ...hidden].map((_, at) => `a${at}`)];
  return sort.map(({ column }) => names.indexOf(column.own));
}

function cursorWriter({ sort }: CheckedWindow, places: readonly number[]): CursorWriter {
  const signature = sortSignature(sort);
  return (row) =>
    printCursor({ sort: signature, values: places.map((place) => row[place] ?? null) });
}
