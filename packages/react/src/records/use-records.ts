import {
  filterText,
  printParameters,
  ServiceError,
  type AnyTables,
  type ColumnName,
  type ColumnsOf,
  type NameOf,
  type OutlineSource,
  type Row,
  type RowSource,
  type SourceState,
  type TableSet,
  type WrittenQuery,
} from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import { conditionOf, matchPart, withCondition, type Condition } from '@ephoros/core/query';
import { shownNames, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';
import {
  changed,
  namesInView,
  namesPainted,
  sortedBy,
  sortMarks,
  type PaintRule,
  type Reading,
  type SortMark,
  type View,
} from '@ephoros/core/view';
import type { Drafts } from '@ephoros/client/drafts';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearch } from '../state/use-search.ts';
import { useView, type ChangeView, type ViewOptions } from '../state/use-view.ts';
import { rowAt } from '../table/row-at.ts';
import { useReady } from '../use-ready.ts';
import { useSource } from '../use-source.ts';
import { useSame } from '../use-same.ts';
import { useStable } from '../use-stable.ts';
import type { RequestClient, QueryOptions, CachedResults } from './request-client.ts';
import { requestsByRows } from './row-requests.ts';
import { referencesShown, undescribed } from './described-table.ts';
import {
  requestedBy,
  namesRequested,
  opened,
  ownView,
  shownView,
  sortedAsRequested,
} from './requested-view.ts';
import { pagerOf, pageOf, type Pager } from './pager.ts';
import { useRequestedSource } from './use-requested-source.ts';
import type { FirstRows } from './first-rows.ts';
import { useChangedSince } from './use-changed-since.ts';
import { useColumn, useDescribed } from './use-described.ts';
import { useStaleSchema } from './use-stale-schema.ts';
import { isOutline } from '../table/row-at.ts';
import { useDraftedSource, useDrafts, useDraftsState, type Editing } from './use-drafts.ts';
import { useCached } from './use-cached.ts';
import { useSelection, type Selection, type SelectionOptions } from './use-selection.ts';

export interface RecordsOptions<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
  Column extends ColumnName<Tables[Name]> = ColumnName<Tables[Name]>,
>
  extends ViewOptions, SelectionOptions {
  /** Where the rows come from: a table of a service, or of local data. */
  readonly client?: RequestClient<Tables> | undefined;
  readonly table?: Name | undefined;
  /** Or from anywhere: makes a row source for a query, such as `rowsFrom` does. */
  readonly source?: ((query: WrittenQuery) => RowSource<object>) | undefined;
  /**
   * What is requested whatever readers choose: a filter, a search; and what is shown where they
   * choose nothing: a sort, a grouping, aggregates, a page size.
   */
  readonly query?: WrittenQuery | undefined;
  /** Columns to ask for; by default all that are shown. The key's are requested as well. */
  readonly columns?: readonly Column[] | undefined;
  /** What the columns are, where no client says so. */
  readonly described?: readonly ColumnDescription[] | undefined;
  /** The columns that tell rows apart, where no client says so. */
  readonly rowKey?: readonly string[] | undefined;
  /**
   * What is shown first, as `firstRows` has requested it, on a server or ahead of time; the first
   * rows are not requested again. Of a promise the table waits, as React's Suspense has it.
   */
  readonly initial?: FirstRows | Promise<FirstRows> | undefined;
  /**
   * Whether rows can be changed here, as far as the service lets them be; and how. What is changed
   * are drafts until it is saved.
   */
  readonly editable?: boolean | Editing | undefined;
  /**
   * Ms between two looks at whether others have written to what is shown; false for none. Of a
   * table that is drawn here 15,000 by default, else none.
   */
  readonly watch?: number | false | undefined;
  /** How rows are read where the view does not say; by page by default. */
  readonly reading?: Reading | undefined;
  /** The IANA time zone whose days conditions mean; the reader's own by default. */
  readonly timeZone?: string | undefined;
}

export const ownTimeZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** A header cell: what it says, and how its column is sorted. */
export interface Header {
  readonly name: string;
  readonly label: string;
  readonly sortable: boolean;
  readonly sorted: 'ascending' | 'descending' | undefined;
  /** The next sort: ascending, descending, none; `add` keeps the other terms. */
  readonly sort: (add?: boolean) => void;
  /** What the filter says of the column. */
  readonly condition: Condition | undefined;
  readonly setCondition: (condition: Condition | undefined) => void;
}

/** All that a view of a table needs, to be drawn in whatever way. */
export interface Records<Line = Row> extends SourceState {
  /** What the table reports about itself, once that is known. */
  readonly description: TableDescription | undefined;
  /** The same with the sort that is requested anyway as its own; of one that is not described, that alone. */
  readonly table: TableDescription;
  /** The columns shown, described, in their order. */
  readonly columns: readonly ColumnDescription[];
  /** A column by its name, also a related one; undefined where there is none, or not yet. */
  readonly column: (name: string) => ColumnDescription | undefined;
  /** Further questions about the table; undefined where there is nobody to ask. */
  readonly request: QueryOptions | undefined;
  readonly headers: readonly Header[];
  /** The sort in force: what the reader has chosen, else the table's own. */
  readonly sort: readonly SortMark[];
  /** The query in force, without a place. */
  readonly query: WrittenQuery;
  /** Which rows it is about: the same object until that changes. */
  readonly match: WrittenQuery;
  readonly source: RowSource | OutlineSource;
  readonly reading: Reading;
  /** The rows of the window, by position; undefined while they are on their way. */
  readonly rows: readonly (Line | undefined)[];
  /** The rows looked at: the page, or what `setVisibleRows` has chosen; `to` is not one of them. */
  readonly window: { readonly from: number; readonly to: number };
  /** Chooses the window, where rows are read by scrolling. */
  readonly setVisibleRows: (from: number, to: number) => void;
  readonly pager: Pager;
  readonly selection: Selection;
  /** What is changed and not saved yet; undefined where nothing can be changed. */
  readonly drafts: Drafts | undefined;
  /** Where the query is answered; undefined where its client keeps nothing. */
  readonly cached: CachedResults | undefined;
  /** Every error of a query that was refused. */
  readonly problems: readonly Problem[];
  /** The words searched for, as they were typed. */
  readonly search: string;
  readonly setSearch: (words: string) => void;
  readonly retry: () => void;
  /** Asks again for what is in view, and for what is made of all rows; the place is stored. */
  readonly refresh: () => void;
  /** The view as it is shown. */
  readonly view: View;
  readonly change: ChangeView;
  /** Since when others have written to what is shown: `refresh` shows it. */
  readonly changedSince: Date | undefined;
  /** Asks for the first rows again. */
  readonly restart: () => void;
  /** The rules that rows and cells are painted by: the view's, else the table's own. */
  readonly paint: readonly PaintRule[];
  /** The condition that is joined to every query, and that no reader can remove. */
  readonly fixed: WrittenQuery['filter'] | undefined;
}

/** Another object after each time that all is requested again. */
function useRequestOptions(
  client: RequestClient | undefined,
  table: string | undefined,
  refreshes: number,
): QueryOptions | undefined {
  return useMemo(
    () =>
      client === undefined || table === undefined
        ? undefined
        : requestsByRows(client, table, refreshes),
    [client, table, refreshes],
  );
}

/** Records without headers of their own. */
export type Drawn = Omit<Records, 'headers'>;

const noQuery: WrittenQuery = {};
const noProblems: readonly Problem[] = [];
const noPaint: readonly PaintRule[] = [];

/**
 * Rows of a table in a view's own hands: give it a client and a table, and draw what comes back.
 * Asks again when the question changes, and forgets what is no longer looked at.
 */
export function useRecords<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
  const Column extends ColumnName<Tables[Name]> = ColumnName<Tables[Name]>,
>(wanted: RecordsOptions<Tables, Name, Column>): Records<Pick<ColumnsOf<Tables[Name]>, Column>> {
  // Types of the tables are a promise of the program's: nothing at run time depends on them.
  const options = wanted as unknown as RecordsOptions;
  const records = useRecordsOf(options, true);
  const { columns, sort, view, change, table } = records;
  const { timeZone = ownTimeZone } = options;
  const headers = columns.map((column): Header => {
    const { name } = column;
    const mark = sort.find((one) => one.column === name);
    return {
      name,
      label: column.label,
      sortable: column.sortable,
      sorted: mark && (mark.descending ? 'descending' : 'ascending'),
      sort: (add = false) => change((shown) => sortedBy(shown, name, add, table)),
      condition: conditionOf(view.filter, column, timeZone),
      setCondition: (condition) =>
        change({
          filter: withCondition(view.filter, column, condition, timeZone),
          place: undefined,
        }),
    };
  });
  return { ...records, headers } as unknown as Records<Pick<ColumnsOf<Tables[Name]>, Column>>;
}

/** The same for a view that draws its headers and looks at the source itself, where `looking` is false. */
export function useRecordsOf(options: RecordsOptions, scan: boolean): Drawn {
  const { table, query: base = noQuery, rowKey } = options;
  const given = useReady(options.initial);
  const initial = given?.table === table ? given : undefined;
  const client = useStable('the client', options.client);
  const [held, changeHeld] = useView(options);
  // However often it is put together, the same question is the same base.
  const own = options.columns !== undefined;
  const described = useDescribed(
    client,
    table,
    options.columns ?? (held.columns ?? base.columns)?.map(({ name }) => name),
    useMemo(() => namesInView(shownView(held, base)), [held, base]),
    own,
    initial,
  );
  const begun = opened(base, described.opening);
  const { begin } = begun;
  const request = useSame(
    begun,
    JSON.stringify([printParameters(begun), begin && filterText(begin)]),
  );
  const view = useMemo(() => shownView(held, request), [held, request]);
  const change = useCallback<ChangeView>(
    (wanted, how) =>
      changeHeld((own) => {
        const shown = shownView(own, request);
        const next = typeof wanted === 'function' ? wanted(shown) : changed(shown, wanted);
        return ownView(next, request);
      }, how),
    [changeHeld, request],
  );
  const chosen = options.columns ?? (view.columns ?? request.columns)?.map(({ name }) => name);
  const description = useMemo(
    () => described.table && sortedAsRequested(described.table, request),
    [described.table, request],
  );
  // Where nothing describes the table, its sort is known all the same.
  const sorted = useMemo(
    () => description ?? sortedAsRequested(undescribed, request),
    [description, request],
  );
  const columns = options.described ?? described.columns;
  const key = description?.key ?? rowKey ?? [];
  const paint = view.paint ?? described.opening.paint ?? noPaint;
  // A rule that no longer fits paints nothing.
  const paintedBy = namesPainted(paint).filter((name) => described.column(name) !== undefined);
  // What a developer has named and there is not was reported; the rest is shown all the same.
  const there =
    own && options.client !== undefined
      ? columns.map(({ name }) => name)
      : (chosen ?? (description && namesRequested(description)));
  // Where a name is shown, it is the reference that is changed.
  const written = options.editable ? referencesShown(there, description) : [];
  const shown =
    there ?? (paintedBy.length > 0 && description ? shownNames(description) : undefined);
  const names = shown && [...new Set([...shown, ...key, ...written, ...paintedBy])];
  const query = requestedBy(view, request, names);
  const matching = matchPart(query);
  const match = useSame(matching, JSON.stringify(printParameters(matching)));
  const reading = view.reading ?? options.reading ?? 'pages';
  const size = view.limit ?? description?.pageSizes[0] ?? 50;
  const [refreshes, setRefreshes] = useState(0);
  const stale = useRef<() => void>(() => undefined);
  const wroteAt = useRef(0);
  const drafts = useDrafts({
    editable: options.editable,
    client,
    description,
    refresh: useCallback(() => {
      wroteAt.current = Date.now();
      stale.current();
    }, []),
  });
  useDraftsState(drafts);
  const requestOptions = useRequestedSource(
    { client, table, from: options.source, described: { ...described, table: description } },
    { query, reading, size, open: view.open, first: initial?.block },
  );
  const source = useDraftedSource(requestOptions, drafts);
  const sourceState = useSource<unknown>(source);
  const { total, open, error, progress } = sourceState;

  const [scanned, appearance] = useState({ from: 0, to: 0 });
  const page = pageOf(view, size);
  const from = reading === 'pages' ? page.from : scanned.from;
  const wanted = reading === 'pages' ? from + size : scanned.to;
  useEffect(() => {
    if (scan && (reading === 'pages' || wanted > from)) source.setVisibleRows(from, wanted);
  }, [source, scan, reading, from, wanted]);
  const to = total === undefined || open ? wanted : Math.max(from, Math.min(wanted, total));
  const rows = Array.from({ length: to - from }, (_, index) => rowAt(source, from + index));

  const pager = pagerOf({
    page: page.number,
    size,
    total,
    open,
    description,
    base: request,
    rows,
    change,
  });
  // A page past the end, as an old address may have it, is the last one.
  const ended = reading === 'pages' && progress === undefined;
  const past = ended && pager.count !== undefined && pager.page > pager.count;
  const last = pager.count;
  useEffect(() => {
    if (!past) return;
    change(
      { place: last === 1 ? undefined : { kind: 'page', page: last ?? 1 } },
      { passing: true },
    );
  }, [past, last, change]);

  const problems =
    error instanceof ServiceError && error.kind === 'refused' ? error.problems : noProblems;
  const { retry: describeAgain } = described;
  useStaleSchema({
    client,
    table,
    columns: described.columns,
    rows,
    problems,
    retry: describeAgain,
  });
  const sort = useMemo(() => sortMarks(view, sorted), [view, sorted]);
  const [search, setSearch] = useSearch(view, change);
  const send = useRequestOptions(client, table, refreshes);
  const refresh = useCallback(() => {
    if (table !== undefined) client?.forget?.(table);
    source.refresh();
    setRefreshes((last) => last + 1);
  }, [client, table, source]);
  useEffect(() => {
    stale.current = refresh;
  });
  const changedSince = useChangedSince({
    request: send,
    query,
    every: options.watch === false ? undefined : options.watch,
    wroteAt: useCallback(() => wroteAt.current, []),
  });
  return {
    description,
    columns,
    column: useColumn(options.described, described.column),
    request: send,
    table: sorted,
    sort,
    query,
    match,
    source,
    reading,
    ...sourceState,
    rows,
    window: { from, to },
    setVisibleRows: useCallback(
      (start: number, end: number) => appearance({ from: start, to: end }),
      [],
    ),
    pager,
    selection: useSelection({
      ...options,
      request: send,
      key,
      rows,
      match,
      // Lines of an outline are no rows.
      total: sourceState.totalKind === 'exact' && !isOutline(source) ? total : undefined,
    }),
    drafts,
    cached: useCached(client, table, query),
    problems,
    retry: source.retry,
    refresh,
    search,
    setSearch,
    view,
    change,
    paint,
    fixed: request.filter,
    changedSince,
    restart: useCallback(() => {
      change({ place: undefined });
      refresh();
    }, [change, refresh]),
  };
}
