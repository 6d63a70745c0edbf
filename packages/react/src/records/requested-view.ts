import { joinFilters, printParameters, type WrittenQuery } from '@ephoros/client';
import type { Expression } from '@ephoros/core/expression';
import { shownNames, type TableDescription } from '@ephoros/core/schema';
import { changed, queryOf, type View, type ViewChange } from '@ephoros/core/view';
import type { Opening } from './opening.ts';

/**
 * The view as it is shown: what a reader has chosen, and where nothing was chosen, what is requested
 * for anyway. A filter, a search and a sort that are requested anyway are not the reader's.
 */
export function shownView(view: View, base: Base): View {
  const { group, aggregate, nulls, limit, total, begin } = base;
  const given = { group, aggregate, nulls, limit, total, ...(begin && { filter: begin }) };
  const shown = changed(changed({}, given), view);
  return begin !== undefined && isAlways(shown.filter)
    ? changed(shown, { filter: undefined })
    : shown;
}

/** What is requested anyway, and the condition that is shown where a reader has chosen none. */
export type Base = WrittenQuery & { readonly begin?: Expression | undefined };

/** What is requested anyway, with what the table's description says of it. */
export function opened(base: WrittenQuery, { begin, fixed }: Opening): Base {
  const filter = fixed === undefined ? base.filter : joinFilters(base.filter, fixed);
  return {
    ...base,
    ...(filter === undefined ? {} : { filter }),
    ...(begin && { begin }),
  };
}

/** Says that there is no condition, where a table would begin with one. */
export const always: Expression = { kind: 'boolean', value: true, span: { start: 0, end: 0 } };

function isAlways(filter: Expression | undefined): boolean {
  return filter?.kind === 'boolean' && filter.value;
}

/** What of a shown view is the reader's own: a grouping that nobody wants is stated to be none. */
export function ownView(shown: View, base: Base): View {
  const { group, aggregate, nulls, limit, total, begin: filter } = base;
  const given: ViewChange = { group, aggregate, nulls, limit, total, ...(filter && { filter }) };
  // However it was put together, what is requested anyway is not the reader's.
  const own = Object.entries(shown).filter(
    ([part, value]) => JSON.stringify(given[part as keyof View]) !== JSON.stringify(value),
  );
  return {
    ...(group === undefined || shown.group !== undefined ? {} : { group: [] }),
    ...(aggregate === undefined || shown.aggregate !== undefined ? {} : { aggregate: [] }),
    ...(filter === undefined || shown.filter !== undefined ? {} : { filter: always }),
    ...(Object.fromEntries(own) as View),
  };
}

/** A table whose own sort is the one that is requested anyway. */
export function sortedAsRequested(
  table: TableDescription,
  { sort }: WrittenQuery,
): TableDescription {
  if (sort === undefined) return table;
  const defaultSort = sort.map(({ column, descending }) => ({ column: column.name, descending }));
  return { ...table, defaultSort };
}

/** The columns to ask for where nobody has chosen: none are named where rows hold them anyway. */
export function namesRequested(table: TableDescription): readonly string[] | undefined {
  return table.columns.some(({ shown, shownAs }) => shown && shownAs !== undefined)
    ? shownNames(table)
    : undefined;
}

const span = { start: 0, end: 0 };

/** The query that a shown view asks, within what is requested anyway; without a place. */
export function requestedBy(
  shown: View,
  base: WrittenQuery,
  names: readonly string[] | undefined,
): WrittenQuery {
  const { filter: ownFilter, search: ownSearch = [], sort = base.sort, ...own } = queryOf(shown);
  const filter = ownFilter === undefined ? base.filter : joinFilters(base.filter, ownFilter);
  const search = [...(base.search ?? []), ...ownSearch];
  const { group = [], aggregate = [], columns = base.columns, ...rest } = own;
  const requests = names?.map((name) => ({ name, span })) ?? columns;
  return {
    ...rest,
    ...(requests && { columns: requests }),
    ...(filter === undefined ? {} : { filter }),
    ...(search.length === 0 ? {} : { search }),
    ...(group.length === 0 ? {} : { group }),
    ...(aggregate.length === 0 ? {} : { aggregate }),
    ...(sort && { sort }),
    ...(base.shape && { shape: base.shape }),
    ...(base.cells !== undefined && { cells: base.cells }),
  };
}

/** Rows of one request in one long scroll. */
export const scrollBlock = 100;

/** A question as two sides can compare it. */
export function queryTextOf(query: WrittenQuery): string {
  return JSON.stringify(printParameters(query));
}
