import { inParameter, problem, type Problem } from '../problem/index.ts';
import type { Name, Place, Query, SortTerm } from '../query/index.ts';
import { typeName, type TableDescription, type Tables } from '../schema/index.ts';
import type {
  CheckedMatch,
  CheckedQuery,
  CheckedSearch,
  CheckedSortTerm,
  CheckedWindow,
} from './checked.ts';
import { checkCursor } from './cursor.ts';
import { Checker } from './expression.ts';
import type { ResolvedSelections } from './resolved-selections.ts';
import { Lookup, ownColumns } from './lookup.ts';
import { relevance, relevanceColumn } from './relevance.ts';
import { checkSearch } from './search.ts';

/** What a query is checked with. */
export interface CheckOptions {
  /** The other published tables, for related columns; none by default. */
  readonly tables?: Tables;
  /** The moment that TODAY, NOW and AGO speak of. */
  readonly now?: Date;
  /** Whether the database keeps texts in UTF-8, as functions of letters need it; true by default. */
  readonly unicode?: boolean;
  /** The stored selections that it may name; none by default. */
  readonly storedSelections?: ResolvedSelections;
}

/**
 * Looks up every name and checks every type of a query against a table's description. Gives the
 * checked query, or all problems at once, each with its parameter and place.
 */
export function checkQuery(
  query: Query,
  table: TableDescription,
  {
    tables = () => undefined,
    now = new Date(),
    unicode = true,
    storedSelections,
  }: CheckOptions = {},
): { readonly checked: CheckedQuery } | { readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  const lookup = new Lookup(table, tables, unicode, storedSelections);

  const inColumns: Problem[] = [];
  const columns = query.columns
    ? distinct(query.columns, inColumns).flatMap((name) => lookup.column(name, inColumns) ?? [])
    : [...ownColumns(table).values()].filter(({ shown }) => shown);
  problems.push(...inParameter('columns', inColumns));

  const match = checkMatch(query, lookup, now, problems);

  const inSort: Problem[] = [];
  const sort = checkSort(query, lookup, match.search, inSort);
  problems.push(...inParameter('sort', inSort));

  const window = checkPlace(query, table, problems);
  const { place } = query;
  const anchor =
    inSort.length === 0 && (place?.kind === 'after' || place?.kind === 'before')
      ? checkCursor(place, table, sort, problems)
      : undefined;
  if (problems.length > 0) return { problems };
  return {
    checked: {
      table,
      columns,
      ...match,
      sort,
      ...window,
      ...(anchor === undefined ? {} : 'key' in anchor ? { anchorRow: anchor } : { anchor }),
      total: query.total ?? 'exact',
      ...(query.total === 'exact' ? { awaitsTotal: true } : {}),
      shape: query.shape ?? 'objects',
      ...(query.cells === undefined ? {} : { cells: query.cells }),
    },
  };
}

/** The conditions that a query's rows must meet. */
export function checkMatch(
  query: Query,
  lookup: Lookup,
  now: Date,
  problems: Problem[],
): CheckedMatch {
  const inFilter: Problem[] = [];
  const filter = query.filter && new Checker(lookup, now, inFilter).condition(query.filter);
  problems.push(...inParameter('filter', inFilter));
  const search = checkSearch(query, lookup, problems);
  return {
    ...(filter === undefined ? {} : { filter }),
    ...(search === undefined ? {} : { search }),
  };
}

/** Where a query's window lies, as far as it is not next to a row. */
export function checkPlace(
  { limit: startedAt, place }: Query,
  table: TableDescription,
  problems: Problem[],
): Pick<CheckedWindow, 'offset' | 'limit' | 'capped'> {
  const wanted = startedAt ?? table.pageSizes[0] ?? 50;
  const limit = Math.min(wanted, table.rowCap);
  const offset = offsetOf(place, limit);
  if (offset > Number.MAX_SAFE_INTEGER) {
    const facts = { least: 1, most: Math.floor(Number.MAX_SAFE_INTEGER / limit) };
    problems.push(...inParameter('page', [problem('not-a-whole-number', facts)]));
  }
  return { offset, limit, capped: wanted > limit };
}

/** Rows before a place: page 3 of 50 begins after 100. */
function offsetOf(place: Place | undefined, limit: number): number {
  if (place === undefined) return 0;
  switch (place.kind) {
    case 'page':
      return (place.page - 1) * limit;
    case 'offset':
      return place.offset;
    case 'after':
    case 'before':
      return 0;
    default:
      throw new Error(`unknown place ${JSON.stringify(place satisfies never)}`);
  }
}

function isRelevance(name: string, table: TableDescription): boolean {
  return name === relevance && !ownColumns(table).has(name);
}

function distinct(names: readonly Name[], problems: Problem[]): readonly Name[] {
  const unique = new Set<string>();
  return names.filter(({ name, span }) => {
    if (!unique.has(name)) return unique.add(name);
    problems.push(problem('repeated-column', { name }, span));
    return false;
  });
}

function checkSort(
  query: Query,
  lookup: Lookup,
  search: CheckedSearch | undefined,
  problems: Problem[],
): CheckedSortTerm[] {
  const { table } = lookup;
  const nulls = query.nulls ?? 'last';
  const given: readonly SortTerm[] =
    query.sort ??
    table.defaultSort.map(({ column, descending }) => ({
      column: { name: column, span: { start: 0, end: 0 } },
      descending,
    }));
  const names = new Set(
    distinct(
      given.map(({ column }) => column),
      problems,
    ),
  );
  const terms: CheckedSortTerm[] = [];
  for (const term of given) {
    if (!names.has(term.column)) continue;
    if (term.expression !== undefined) {
      problems.push(problem('sort-needs-column', { name: term.column.name }, term.column.span));
      continue;
    }
    if (isRelevance(term.column.name, table)) {
      if (search?.fullText === undefined) {
        problems.push(problem('relevance-needs-search', {}, term.column.span));
      } else terms.push({ column: relevanceColumn(search), descending: term.descending, nulls });
      continue;
    }
    const column = lookup.column(term.column, problems);
    if (column === undefined) continue;
    if (column.sortable) {
      terms.push({ column, descending: term.descending, nulls: term.nulls ?? nulls });
    } else {
      const facts = { name: column.name, type: typeName(column.type) };
      problems.push(problem('not-sortable', facts, term.column.span));
    }
  }
  return [...terms, ...keyTerms(table, terms)];
}

/** The key's columns that the sort does not hold yet, in the direction of its last term. */
function keyTerms(table: TableDescription, terms: readonly CheckedSortTerm[]): CheckedSortTerm[] {
  const sorted = new Set(terms.map(({ column }) => column.name));
  // One direction throughout lets one index serve, and a row comparison be the cursor.
  const descending = terms.at(-1)?.descending ?? false;
  return table.key.flatMap((name) => {
    const column = ownColumns(table).get(name);
    if (column === undefined || sorted.has(name)) return [];
    return [{ column, descending, nulls: 'last' as const }];
  });
}
