import { chosenQuery, type WrittenQuery } from '@ephoros/client';
import { rowsPart } from '@ephoros/core/query';
import { namesOf } from '@ephoros/core/view';
import type { Drawn } from '../records/use-records.ts';

/** Which rows are taken out: all that match, those that are selected, or the page. */
export type Scope = 'all' | 'selected' | 'page';

type SortTerms = NonNullable<WrittenQuery['sort']>;

/** What is asked to be written: a scope of what is shown, with some columns. */
export async function wantedRows(
  scope: Scope,
  columns: readonly string[],
  { match, query, selection, ask, pager, window }: Drawn,
): Promise<WrittenQuery> {
  const { chosen } = selection;
  const rows =
    scope === 'selected'
      ? chosenQuery(ask === undefined ? chosen : await ask.askable(chosen))
      : match;
  const sort = sortOf(query);
  const { nulls } = query;
  return {
    ...rows,
    ...(sort.length > 0 && { sort }),
    ...(nulls && { nulls }),
    columns: columns.map((name) => ({ name, span: { start: 0, end: 0 } })),
    ...(scope === 'page' && {
      limit: pager.size,
      place: { kind: 'offset', offset: window.from } as const,
    }),
  };
}

/** The rows of groups come group by group, as far as columns tell these apart. */
function sortOf(query: WrittenQuery): SortTerms {
  const { group = [], sort = [] } = query;
  const levels = group.flatMap(({ name, expression }): SortTerms => {
    const descending = sort.some((term) => term.column.name === name && term.descending);
    return namesOf(expression)
      .slice(0, 1)
      .map((column) => ({ column: { name: column, span: { start: 0, end: 0 } }, descending }));
  });
  const own = rowsPart(query).sort ?? [];
  const led = new Set(levels.map(({ column }) => column.name));
  return [...levels, ...own.filter(({ column }) => !led.has(column.name))];
}
