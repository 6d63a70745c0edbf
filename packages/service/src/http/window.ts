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

/** Lays out what `compileRows` gave: one row more than the window, in reverse before a cursor. */
export function layOut(query: CheckedQuery, answer: Answer): RowsWindow {
  const { limit, offset, beside, table } = query;
  const more = answer.rows.length > limit;
  const reverse = beside?.kind === 'before';
  const walked = more ? answer.rows.slice(0, limit) : answer.rows;
  const rows = reverse ? [...walked].reverse() : walked;
  const [first] = rows;
  const last = rows.at(-1);
  if (first === undefined || last === undefined || table.key.length === 0) {
    return { rows, next: null, previous: null };
  }
  const cursor = cursorWriter(query);
  const goesOn = reverse || more;
  const hasBefore = reverse ? more : beside !== undefined || offset > 0;
  return {
    rows,
    next: goesOn ? cursor(last) : null,
    previous: hasBefore ? cursor(first) : null,
  };
}

function cursorWriter(query: CheckedQuery): (row: Row) => string {
  const names = [...query.columns, ...cursorColumns(query)].map(({ name }) => name);
  const places = query.sort.map(({ column }) => names.indexOf(column.name));
  const sort = sortSignature(query.sort);
  return (row) => printCursor({ sort, values: places.map((place) => row[place] ?? null) });
}
