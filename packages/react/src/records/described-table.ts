import type { TableDescription } from '@ephoros/core/schema';

/** Of a table that nothing describes. */
export const undescribed: TableDescription = {
  name: '',
  title: '',
  kind: 'table',
  key: [],
  columns: [],
  relationships: [],
  search: [],
  defaultSort: [],
  pageSizes: [50, 100, 200],
  rowCap: 1_000,
  estimatedRows: null,
  remarks: [],
};

/** The references that are shown by the names of the rows they lead to. */
export function referencesShown(
  names: readonly string[] = [],
  description: TableDescription | undefined,
): readonly string[] {
  if (description?.changes === undefined) return [];
  return description.columns.flatMap(({ name, shownAs, writing }) =>
    shownAs !== undefined && writing?.change === true && names.includes(shownAs) ? [name] : [],
  );
}
