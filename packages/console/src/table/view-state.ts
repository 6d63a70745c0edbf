import type { OpenGroup } from '@ephoros/client';
import {
  checkAggregates,
  checkGrouping,
  checkQuery,
  columnNamed,
  type CheckedColumn,
  type CheckedGrouping,
  type CheckedQuery,
  type Tables,
} from '@ephoros/core/check';
import type { Problem } from '@ephoros/core/problem';
import {
  defaultSort,
  groupsPart,
  isOfGroups,
  parseParameters,
  parseSort,
  printSort,
  printTerms,
  queryParameters,
  rowsPart,
  type Query,
  type QueryParameter,
  type SortTerm,
  type Term,
} from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { useCallback, useMemo } from 'react';
import { useLocation } from 'wouter';
// The raw search: the one of 'wouter' itself is decoded already, once too often.
import { useSearch } from 'wouter/use-browser-location';

/** How the rows are read: page by page, or as one long scroll. */
export type Reading = 'pages' | 'scroll';

/** What the page's URL holds: the query's parameters as texts, and how the rows are read. */
export type ViewTexts = Partial<Record<QueryParameter | 'reading' | 'open', string>>;

/** The view on the screen, read from the URL of the page. */
export interface View {
  readonly texts: ViewTexts;
  readonly query: Query;
  readonly reading: Reading;
  /** Undefined while the query has problems. */
  readonly checked: CheckedQuery | undefined;
  /** The grouping, or the aggregates of the whole alone; undefined where there is neither. */
  readonly grouping: CheckedGrouping | undefined;
  /** The groups that are open, as far as they have room in the URL. */
  readonly open: readonly OpenGroup[];
  /** The tables around this one. */
  readonly tables: Tables;
  /** A column by its name, also a related one. */
  readonly column: (name: string) => CheckedColumn | undefined;
  readonly problems: readonly Problem[];
  /** Changes some of the texts; undefined takes one out. A new history entry unless `replace`. */
  readonly change: (texts: Readonly<Record<string, string | undefined>>, replace?: boolean) => void;
}

export function useView(table: TableDescription, tables: Tables): View {
  const search = useSearch();
  const [path, navigate] = useLocation();
  const texts = useMemo(() => readTexts(search), [search]);
  const read = useMemo(() => readView(texts, table, tables), [texts, table, tables]);
  const column = useCallback((name: string) => columnNamed(name, table, tables), [table, tables]);
  const change = useCallback<View['change']>(
    (changes, replace = false) => {
      // What the address says now: several changes may come before the next drawing.
      const merged = { ...readTexts(window.location.search), ...changes };
      navigate(path + writeTexts(merged), { replace });
    },
    [navigate, path],
  );
  return { texts, change, tables, column, ...read };
}

function readView(
  texts: ViewTexts,
  table: TableDescription,
  tables: Tables,
): Pick<View, 'query' | 'reading' | 'checked' | 'grouping' | 'open' | 'problems'> {
  const { reading: readingText, open, ...parameters } = texts;
  const { query, problems } = parseParameters(parameters);
  const read = checkQuery(query.group === undefined ? query : rowsPart(query), table, { tables });
  const grouped = checkGroups(query, table, tables);
  const all = [
    ...problems,
    ...('problems' in read ? read.problems : []),
    // What both read is told once.
    ...(grouped !== undefined && 'problems' in grouped
      ? grouped.problems.filter(({ parameter = '' }) => ofGroups.has(parameter))
      : []),
  ];
  return {
    query,
    reading: readingText === 'scroll' ? 'scroll' : 'pages',
    checked: 'checked' in read && all.length === 0 ? read.checked : undefined,
    grouping:
      grouped !== undefined && 'checked' in grouped && all.length === 0
        ? grouped.checked
        : undefined,
    open: readOpen(open),
    problems: all,
  };
}

const ofGroups = new Set(['group', 'aggregate', 'sort']);

function checkGroups(
  query: Query,
  table: TableDescription,
  tables: Tables,
): ReturnType<typeof checkGrouping> | undefined {
  if (query.group === undefined) {
    return query.aggregate && checkAggregates(query, table, { tables });
  }
  return checkGrouping(groupsPart(query), table, { tables });
}

function readOpen(text: string | undefined): readonly OpenGroup[] {
  try {
    const read: unknown = JSON.parse(text ?? '[]');
    return Array.isArray(read) ? read.filter((one) => Array.isArray(one)) : [];
  } catch {
    return [];
  }
}

/** Characters of the open groups that the URL holds at most. */
const mostOpen = 600;

/** The text for the groups that are open; undefined for none, and for more than have room. */
export function openText(open: readonly OpenGroup[]): string | undefined {
  const text = JSON.stringify(open);
  return open.length === 0 || text.length > mostOpen ? undefined : text;
}

// A path is where one level is, not the view.
const names = [...queryParameters.filter((name) => name !== 'path'), 'reading', 'open'] as const;

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

/**
 * The texts for another sort, of groups and rows; the table's own is left out. Begins at the
 * beginning.
 */
export function sortTexts(
  terms: readonly SortTerm[],
  table: TableDescription,
  query: Query,
): Readonly<Record<string, string | undefined>> {
  const ofRows = terms.filter((term) => !isOfGroups(term, query));
  const own = printSort(ofRows) === printSort(defaultSort(table));
  const kept = terms.filter((term) => isOfGroups(term, query) || !own);
  const text = printSort(kept);
  return { sort: text === '' ? undefined : text, page: undefined, offset: undefined };
}

/** A term of a sort by its name, such as `toll` or `sum(toll)`. */
export function sortTermBy(name: string, descending: boolean): SortTerm {
  const [term] = parseSort(name).terms;
  return term === undefined
    ? { column: { name, span: { start: 0, end: 0 } }, descending }
    : { ...term, descending };
}

/** The texts for other levels; a sort by one that is gone goes with it. */
export function groupTexts(
  group: readonly Term[],
  { query }: View,
): Readonly<Record<string, string | undefined>> {
  const gone = new Set(
    (query.group ?? [])
      .map(({ name }) => name)
      .filter((name) => !group.some((one) => one.name === name)),
  );
  const sort = (query.sort ?? []).filter(
    (term) => !gone.has(term.column.name) && (group.length > 0 || term.expression === undefined),
  );
  return {
    group: group.length === 0 ? undefined : printTerms(group),
    sort: sort.length === 0 ? undefined : printSort(sort),
    open: undefined,
    page: undefined,
    offset: undefined,
  };
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
  const by = (descending: boolean): SortTerm => sortTermBy(name, descending);
  if (term === undefined) return [...others, by(false)];
  const replace = (next: SortTerm): readonly SortTerm[] =>
    add ? terms.map((one) => (one === term ? next : one)) : [next];
  if (!term.descending) return replace(by(true));
  const own = printSort(defaultSort(table));
  return others.length === 0 && own === `-${name}` ? replace(by(false)) : others;
}
