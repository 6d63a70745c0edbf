import type { Condition } from '@ephoros/core/query';
import type { SortMark } from '../table/column.ts';

/** What a reader has chosen: plain data, to be kept in an address, say. */
export interface TableState {
  /** By weight; none is the table's own sort. */
  readonly sort: readonly SortMark[];
  /** By column. */
  readonly conditions: Readonly<Record<string, Condition>>;
  readonly search: string;
  /** Counted from 1. */
  readonly page: number;
  /** Rows of a page; 0 for the table's own. */
  readonly pageSize: number;
  /** Of the columns that were made wider or narrower, in px. */
  readonly widths: Readonly<Record<string, number>>;
  /** Columns in the order in which they are shown; those that are not named follow. */
  readonly order: readonly string[];
  /** Columns that stay in view when the others scroll sideways. */
  readonly pinned: readonly string[];
  readonly hidden: readonly string[];
  /** Keys of the rows that are selected. */
  readonly selected: readonly string[];
}

export const initialState: TableState = {
  sort: [],
  conditions: {},
  search: '',
  page: 1,
  pageSize: 0,
  widths: {},
  order: [],
  pinned: [],
  hidden: [],
  selected: [],
};

/**
 * The sort after a column was chosen: none, ascending, descending, none. `add` keeps the other
 * terms.
 */
export function nextSort(
  sort: readonly SortMark[],
  column: string,
  add: boolean,
): readonly SortMark[] {
  const mark = sort.find((one) => one.column === column);
  const others = add ? sort.filter((one) => one.column !== column) : [];
  if (mark === undefined) return [...others, { column, descending: false }];
  if (mark.descending) return others;
  const turned = { column, descending: true };
  return add ? sort.map((one) => (one === mark ? turned : one)) : [turned];
}
