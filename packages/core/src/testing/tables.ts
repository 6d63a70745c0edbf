import type { ColumnDescription, TableDescription } from '../schema/index.ts';

/** A table as it is described, of which nothing is out of the ordinary. */
export function plainTable(
  name: string,
  columns: readonly ColumnDescription[],
  more: Partial<TableDescription> = {},
): TableDescription {
  return {
    name,
    title: name,
    kind: 'table',
    key: ['id'],
    columns,
    relationships: [],
    search: [],
    defaultSort: [],
    pageSizes: [50],
    rowCap: 1000,
    estimatedRows: null,
    remarks: [],
    ...more,
  };
}
