import type { Query, QueryWith, SortTerm } from './query.ts';
import { sortsBy } from './term.ts';

/** What a query asks of the rows: without its grouping, and without what only groups are sorted by. */
export function rowsPart<Filter>(query: QueryWith<Filter>): QueryWith<Filter> {
  const { columns, filter, search, sort, nulls, limit, place, total, shape, cells } = query;
  const own = sort?.filter((term) => !isOfGroups(term, query)) ?? [];
  return {
    ...(columns && { columns }),
    ...(filter !== undefined && { filter }),
    ...(search && { search }),
    // Sorted by nothing else, rows come in the table's own order.
    ...(own.length > 0 && { sort: own }),
    ...(nulls && { nulls }),
    ...(limit !== undefined && { limit }),
    ...(place && { place }),
    ...(total && { total }),
    ...(shape && { shape }),
    ...(cells !== undefined && { cells }),
  };
}

/** Which rows a query is about, whatever of them and in whatever order. */
export function matchPart<Filter>({
  filter,
  search,
}: QueryWith<Filter>): Pick<QueryWith<Filter>, 'filter' | 'search'> {
  return { ...(filter !== undefined && { filter }), ...(search && { search }) };
}

/** What a query asks of the lines of its grouping, wherever its window lies. */
export function groupsPart<Filter>(query: QueryWith<Filter>): QueryWith<Filter> {
  const { filter, search, group, path, aggregate, sort, nulls } = query;
  const own = sort?.filter((term) => isOfGroups(term, query)) ?? [];
  return {
    ...(filter !== undefined && { filter }),
    ...(search && { search }),
    ...(group && { group }),
    ...(path && { path }),
    ...(aggregate && { aggregate }),
    ...(own.length > 0 && { sort: own }),
    ...(nulls && { nulls }),
  };
}

/** Where a query's window lies. */
export function windowPart({ limit, place }: QueryWith<unknown>): Pick<Query, 'limit' | 'place'> {
  return { ...(limit !== undefined && { limit }), ...(place && { place }) };
}

/** Whether a term sorts groups: by an aggregate, or by what they are grouped by. */
export function isOfGroups(term: SortTerm, { group = [] }: Pick<Query, 'group'>): boolean {
  return term.expression !== undefined || group.some((one) => sortsBy(term, one));
}
