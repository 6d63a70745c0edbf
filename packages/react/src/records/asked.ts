import { joinFilters, type WrittenQuery } from '@ephoros/client';
import { parseSearch, withCondition } from '@ephoros/core/query';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { TableState } from '../state/table-state.ts';

const span = { start: 0, end: 0 };

/** The query that a state asks, within what is asked for anyway. */
export function askedBy(
  { sort, conditions, search }: Pick<TableState, 'sort' | 'conditions' | 'search'>,
  base: WrittenQuery,
  columns: readonly ColumnDescription[],
  names: readonly string[] | undefined,
  timeZone: string,
): WrittenQuery {
  let { filter } = base;
  for (const column of columns) {
    const condition = conditions[column.name];
    const term = condition && withCondition(undefined, column, condition, timeZone);
    if (term !== undefined) filter = joinFilters(filter, term);
  }
  const words = parseSearch(search);
  return {
    ...base,
    ...(names === undefined ? {} : { columns: names.map((name) => ({ name, span })) }),
    ...(filter === undefined ? {} : { filter }),
    ...(words.length === 0 ? {} : { search: [...(base.search ?? []), ...words] }),
    ...(sort.length === 0
      ? {}
      : {
          sort: sort.map(({ column, descending }) => ({
            column: { name: column, span },
            descending,
          })),
        }),
  };
}
