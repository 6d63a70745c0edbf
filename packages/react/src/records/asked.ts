import { joinFilters, printParameters, type WrittenQuery } from '@ephoros/client';
import { shownNames, type TableDescription } from '@ephoros/core/schema';
import { changed, queryOf, type View, type ViewChange } from '@ephoros/core/view';

/**
 * The view as it is shown: what a reader has chosen, and where nothing was chosen, what is asked
 * for anyway. A filter, a search and a sort that are asked for anyway are not the reader's.
 */
export function shownView(view: View, base: WrittenQuery): View {
  const { group, aggregate, nulls, limit, total } = base;
  return changed(changed({}, { group, aggregate, nulls, limit, total }), view);
}

/** What of a shown view is the reader's own: a grouping that nobody wants is said to be none. */
export function ownView(shown: View, base: WrittenQuery): View {
  const { group, aggregate, nulls, limit, total } = base;
  const given: ViewChange = { group, aggregate, nulls, limit, total };
  // However it was put together, what is asked for anyway is not the reader's.
  const own = Object.entries(shown).filter(
    ([part, value]) => JSON.stringify(given[part as keyof View]) !== JSON.stringify(value),
  );
  return {
    ...(group === undefined || shown.group !== undefined ? {} : { group: [] }),
    ...(aggregate === undefined || shown.aggregate !== undefined ? {} : { aggregate: [] }),
    ...(Object.fromEntries(own) as View),
  };
}

/** A table whose own sort is the one that is asked for anyway. */
export function sortedAsAsked(table: TableDescription, { sort }: WrittenQuery): TableDescription {
  if (sort === undefined) return table;
  const defaultSort = sort.map(({ column, descending }) => ({ column: column.name, descending }));
  return { ...table, defaultSort };
}

/** The columns to ask for where nobody has chosen: none are named where rows hold them anyway. */
export function namesAsked(table: TableDescription): readonly string[] | undefined {
  return table.columns.some(({ shown, shownAs }) => shown && shownAs !== undefined)
    ? shownNames(table)
    : undefined;
}

const span = { start: 0, end: 0 };

/** The query that a shown view asks, within what is asked for anyway; without a place. */
export function askedBy(
  shown: View,
  base: WrittenQuery,
  names: readonly string[] | undefined,
): WrittenQuery {
  const { filter: ownFilter, search: ownSearch = [], sort = base.sort, ...own } = queryOf(shown);
  const filter = ownFilter === undefined ? base.filter : joinFilters(base.filter, ownFilter);
  const search = [...(base.search ?? []), ...ownSearch];
  const { group = [], aggregate = [], columns = base.columns, ...rest } = own;
  const asked = names?.map((name) => ({ name, span })) ?? columns;
  return {
    ...rest,
    ...(asked && { columns: asked }),
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
export function questionOf(query: WrittenQuery): string {
  return JSON.stringify(printParameters(query));
}
