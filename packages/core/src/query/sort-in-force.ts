import type { TableDescription } from '../schema/index.ts';
import { groupsPart, rowsPart } from './parts.ts';
import type { Query, SortTerm } from './query.ts';

/** The sort in force: of the groups, and then of the rows, which have the table's own by default. */
export function sortInForce(query: Query, table: TableDescription): readonly SortTerm[] {
  const ofGroups = query.group === undefined ? [] : (groupsPart(query).sort ?? []);
  return [...ofGroups, ...(rowsPart(query).sort ?? defaultSort(table))];
}

/** The sort that a table has where a query names none. */
export function defaultSort(table: TableDescription): SortTerm[] {
  return table.defaultSort.map(({ column, descending }) => ({
    column: { name: column, span: { start: 0, end: 0 } },
    descending,
  }));
}
