import type { Query, SortTerm } from './query.ts';

/** What a query asks of the rows: without its grouping, and without what only groups are sorted by. */
export function rowsPart(query: Query): Query {
  const { columns, filter, search, sort, nulls, limit, place, total, shape } = query;
  const own = sort?.filter((term) => !isOfGroups(term, query)) ?? [];
  return {
    ...(columns && { columns }),
    ...(filter && { filter }),
    ...(search && { search }),
    // Sorted by nothing else, rows come in the table's own order.
    ...(own.length > 0 && { sort: own }),
    ...(nulls && { nulls }),
    ...(limit !== undefined && { limit }),
    ...(place && { place }),
    ...(total && { total }),
    ...(shape && { shape }),
  };
}

/** What a query asks of the lines of its grouping, wherever its window lies. */
export function groupsPart(query: Query): Query {
  const { filter, search, group, path, aggregate, sort, nulls } = query;
  const own = sort?.filter((term) => isOfGroups(term, query)) ?? [];
  return {
    ...(filter && { filter }),
    ...(search && { search }),
    ...(group && { group }),
    ...(path && { path }),
    ...(aggregate && { aggregate }),
    ...(own.length > 0 && { sort: own }),
    ...(nulls && { nulls }),
  };
}

/** Where a query's window lies. */
export function windowPart({ limit, place }: Query): Query {
  return { ...(limit !== undefined && { limit }), ...(place && { place }) };
}

/** Whether a term sorts groups: by an aggregate, or by what they are grouped by. */
export function isOfGroups({ column, expression }: SortTerm, { group = [] }: Query): boolean {
  return expression !== undefined || group.some(({ name }) => name === column.name);
}
