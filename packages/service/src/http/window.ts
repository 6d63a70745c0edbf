import { sortSignature, type CheckedQuery } from '@ephoros/core/check';
import { printCursor } from '@ephoros/core/query';
import { cursorColumns } from '@ephoros/core/sql';
import type { Answer } from '../run/index.ts';

type Row = Answer['rows'][number];

/** The rows of a window in the query's order, and the cursors at its ends. */
export interface RowsWindow {
  readonly rows: readonly Row[];
  /** A cursor just after the last row; null where the result ends, or has no key. */
  readonly next: string | null;
  /** A cursor just before the first row; null where the result begins. */
  readonly previous: string | null;
}

/**
 * Lays out what `compileRows` gave for the query as it was walked, which may have come to the
 * window another way than it was asked for: one row more than the window, and in reverse before
 * a cursor or the end.
 */
export function layOut(asked: CheckedQuery, walked: CheckedQuery, answer: Answer): RowsWindow {
  const more = answer.rows.length > walked.limit;
  const reverse = walked.beside !== undefined && walked.beside.kind !== 'after';
  const kept = more ? answer.rows.slice(0, walked.limit) : answer.rows;
  const rows = reverse ? [...kept].reverse() : kept;
  const [first] = rows;
  const last = rows.at(-1);
  if (first === undefined || last === undefined || asked.table.key.length === 0) {
    return { rows, next: null, previous: null };
  }
  const cursor = cursorWriter(asked);
  // In reverse the window was come to from behind: only at the very end nothing follows.
  const goesOn = reverse ? walked.beside.kind === 'before' || walked.offset > 0 : more;
  const hasBefore = reverse
    ? more || asked.offset > 0
    : asked.beside !== undefined || asked.offset > 0;
  return { rows, next: goesOn ? cursor(last) : null, previous: hasBefore ? cursor(first) : null };
}

function cursorWriter(query: CheckedQuery): (row: Row) => string {
  const names = [...query.columns, ...cursorColumns(query)].map(({ name }) => name);
  const places = query.sort.map(({ column }) => names.indexOf(column.name));
  const sort = sortSignature(query.sort);
  return (row) => printCursor({ sort, values: places.map((place) => row[place] ?? null) });
}
