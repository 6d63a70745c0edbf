import { chosenQuery, type WrittenQuery } from '@ephoros/client';
import { groupsPart, rowsPart, termOf } from '@ephoros/core/query';
import { namesOf } from '@ephoros/core/view';
import type { Drawn } from '../records/use-records.ts';

/** What is taken out: all rows that match, those that are selected, or the page; or a line for each group. */
export type Scope = 'all' | 'selected' | 'page' | 'groups';

type SortTerms = NonNullable<WrittenQuery['sort']>;

/** What is to be written: a scope of what is shown, with some columns. */
export async function wantedRows(
  scope: Scope,
  columns: readonly string[],
  { match, query, selection, request, pager, window }: Drawn,
): Promise<WrittenQuery> {
  if (scope === 'groups') return groupsOf(query, match);
  const { chosen } = selection;
  const rows =
    scope === 'selected'
      ? chosenQuery(request === undefined ? chosen : await request.queryable(chosen))
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

const rowCount = termOf({ kind: 'call', name: 'count', args: [], span: { start: 0, end: 0 } });

/** The groups with the number of their rows, which their lines show anyway, and what else is made of them. */
function groupsOf(query: WrittenQuery, match: WrittenQuery): WrittenQuery {
  const { aggregate = [], ...groups } = groupsPart(query);
  const others = aggregate.filter(({ name }) => name !== rowCount.name);
  return { ...groups, ...match, aggregate: [rowCount, ...others] };
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
