import { printExpression, printName, printPath } from '../expression/index.ts';
import type { WrittenQuery } from './query.ts';
import { printSearch } from './search.ts';
import { printSort } from './sort.ts';
import { printTerms } from './term.ts';

/** The names of the parameters that spell a query. */
export const queryParameters = [
  'columns',
  'filter-lang',
  'filter',
  'search',
  'group',
  'path',
  'aggregate',
  'sort',
  'nulls',
  'limit',
  'page',
  'offset',
  'after',
  'before',
  'total',
  'shape',
  'cells',
] as const;

export type QueryParameter = (typeof queryParameters)[number];

/**
 * The query's parameters, in the order of `queryParameters`, with what is at its default left
 * out. Reading them again gives the same query (places aside).
 */
export function printParameters(query: WrittenQuery): [QueryParameter, string][] {
  const { columns, filter, search, group, path, aggregate, sort } = query;
  const { nulls, limit, place, total, shape, cells } = query;
  const printed: [QueryParameter, string | undefined][] = [
    ['columns', columns?.map(({ name }) => printName(name)).join(',')],
    ['filter', typeof filter === 'object' ? printExpression(filter) : filter],
    ['search', search && printSearch(search)],
    ['group', group && printTerms(group)],
    ['path', path && printPath(path)],
    ['aggregate', aggregate && printTerms(aggregate)],
    ['sort', sort && printSort(sort)],
    ['nulls', nulls],
    ['limit', limit?.toString()],
    ['page', place?.kind === 'page' ? String(place.page) : undefined],
    ['offset', place?.kind === 'offset' ? String(place.offset) : undefined],
    ['after', place?.kind === 'after' ? place.token : undefined],
    ['before', place?.kind === 'before' ? place.token : undefined],
    ['total', total],
    ['shape', shape],
    ['cells', cells?.toString()],
  ];
  return printed.filter((pair): pair is [QueryParameter, string] => pair[1] !== undefined);
}
