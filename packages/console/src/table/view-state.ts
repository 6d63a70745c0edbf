import { checkQuery, type CheckedQuery } from '@ephoros/core/check';
import type { Problem } from '@ephoros/core/problem';
import {
  parseParameters,
  printSort,
  queryParameters,
  type Query,
  type QueryParameter,
  type SortTerm,
} from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { useCallback, useMemo } from 'react';
import { useLocation } from 'wouter';
// The raw search: the one of 'wouter' itself is decoded already, once too often.
import { useSearch } from 'wouter/use-browser-location';

/** How the rows are read: page by page, or as one long scroll. */
export type Reading = 'pages' | 'scroll';

/** What the page's URL holds: the query's parameters as texts, and how the rows are read. */
export type ViewTexts = Partial<Record<QueryParameter | 'reading', string>>;

/** The view on the screen, read from the URL of the page. */
export interface View {
  readonly texts: ViewTexts;
  readonly query: Query;
  readonly reading: Reading;
  /** Undefined while the query has problems. */
  readonly checked: CheckedQuery | undefined;
  readonly problems: readonly Problem[];
  /** Changes some of the texts; undefined takes one out. A new history entry unless `replace`. */
  readonly change: (texts: Readonly<Record<string, string | undefined>>, replace?: boolean) => void;
}

export function useView(table: TableDescription): View {
  const search = useSearch();
  const [path, navigate] = useLocation();
  const texts = useMemo(() => readTexts(search), [search]);
  const read = useMemo(() => readView(texts, table), [texts, table]);
  const change = useCallback<View['change']>(
    (changes, replace = false) => {
      // What the address says now: several changes may come before the next drawing.
      const merged = { ...readTexts(window.location.search), ...changes };
      navigate(path + writeTexts(merged), { replace });
    },
    [navigate, path],
  );
  return { texts, change, ...read };
}

function readView(
  texts: ViewTexts,
  table: TableDescription,
): Pick<View, 'query' | 'reading' | 'checked' | 'problems'> {
  const { reading: readingText, ...parameters } = texts;
  const { query, problems } = parseParameters(parameters);
  const read = checkQuery(query, table);
  const all = [...problems, ...('problems' in read ? read.problems : [])];
  return {
    query,
    reading: readingText === 'scroll' ? 'scroll' : 'pages',
    checked: 'checked' in read && all.length === 0 ? read.checked : undefined,
    problems: all,
  };
}

const names = [...queryParameters, 'reading'] as const;

function readTexts(search: string): ViewTexts {
  const parameters = new URLSearchParams(search);
  const texts: ViewTexts = {};
  for (const name of names) {
    const text = parameters.get(name);
    if (text !== null) texts[name] = text;
  }
  return texts;
}

function writeTexts(texts: Readonly<Record<string, string | undefined>>): string {
  const parts = names.flatMap((name) => {
    const text = texts[name];
    // Readable in the address bar: only what must be is escaped.
    return text === undefined ? [] : [`${name}=${encodeURIComponent(text).replaceAll('%20', '+')}`];
  });
  return parts.length === 0 ? '' : `?${parts.join('&')}`;
}

/** The sort in force: the one asked for, else the table's own. */
export function sortInForce({ query }: View, table: TableDescription): readonly SortTerm[] {
  return query.sort ?? defaultTerms(table);
}

function defaultTerms(table: TableDescription): readonly SortTerm[] {
  return table.defaultSort.map(({ column, descending }) => ({
    column: { name: column, span: { start: 0, end: 0 } },
    descending,
  }));
}

/** The texts for another sort; one that is the table's own is left out. Begins at the beginning. */
export function sortTexts(
  terms: readonly SortTerm[],
  table: TableDescription,
): Readonly<Record<string, string | undefined>> {
  const text = printSort(terms);
  const own = text === '' || text === printSort(defaultTerms(table));
  return { sort: own ? undefined : text, page: undefined, offset: undefined };
}

/**
 * The sort after a header was chosen: none → ascending → descending → none. `add` keeps the
 * other terms. Where no sort at all would bring the table's own sort by the same column and
 * direction back, the column turns around instead.
 */
export function cycled(
  terms: readonly SortTerm[],
  name: string,
  add: boolean,
  table: TableDescription,
): readonly SortTerm[] {
  const term = terms.find(({ column }) => column.name === name);
  const others = add ? terms.filter(({ column }) => column.name !== name) : [];
  const by = (descending: boolean): SortTerm => ({
    column: { name, span: { start: 0, end: 0 } },
    descending,
  });
  if (term === undefined) return [...others, by(false)];
  const replace = (next: SortTerm): readonly SortTerm[] =>
    add ? terms.map((one) => (one === term ? next : one)) : [next];
  if (!term.descending) return replace(by(true));
  const own = printSort(defaultTerms(table));
  return others.length === 0 && own === `-${name}` ? replace(by(false)) : others;
}
