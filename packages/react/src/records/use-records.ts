import {
  outlineSource,
  printParameters,
  remoteRows,
  type Client,
  type OutlineSource,
  type Row,
  type RowSource,
  type SourceState,
  type WrittenQuery,
} from '@ephoros/client';
import type { Condition } from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { pageCount } from '@ephoros/core/window';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useTableState, type ChangeState, type StateOptions } from '../state/use-table-state.ts';
import { nextSort, type TableState } from '../state/table-state.ts';
import { rowAt } from '../table/row-at.ts';
import { useClosedSource } from '../use-closed-source.ts';
import { useSource } from '../use-source.ts';
import { useSame } from '../use-same.ts';
import { useSteady } from '../use-steady.ts';
import { askedBy } from './asked.ts';
import { useDescribed } from './use-described.ts';
import { useSelection, type Selection } from './use-selection.ts';

/** What is asked of a client, whatever its tables. */
export interface AskedClient extends Pick<Client, 'describe' | 'rows' | 'groups'> {
  /** Values at even places, for the strip beside the scroll bar. */
  readonly mileposts?: Client['mileposts'];
  /** Whether a query is answered here; of clients that keep small results. */
  readonly kept?: (table: string, query: WrittenQuery) => Kept;
}

/** Where a query is answered, and up to how many rows that is here. */
export interface Kept {
  readonly where: 'kept' | 'service';
  readonly maxRows: number;
}

export interface RecordsOptions extends StateOptions {
  /** Where the rows come from: a table of a service, or of local data. */
  readonly client?: AskedClient | undefined;
  readonly table?: string | undefined;
  /** Or from anywhere: makes a row source for a query, such as `rowsFrom` does. */
  readonly source?: ((query: WrittenQuery) => RowSource) | undefined;
  /** What is asked for whatever readers choose: a filter, a grouping, a sort to begin with. */
  readonly query?: WrittenQuery | undefined;
  /** Columns to ask for; by default all that are shown. The key's are asked for as well. */
  readonly columns?: readonly string[] | undefined;
  /** What the columns are, where no client says so. */
  readonly described?: readonly ColumnDescription[] | undefined;
  /** The columns that tell rows apart, where no client says so. */
  readonly rowKey?: readonly string[] | undefined;
  /** By page, or by scrolling through all rows; by page by default. */
  readonly reading?: 'pages' | 'scroll' | undefined;
  /** The IANA time zone whose days conditions mean; the reader's own by default. */
  readonly timeZone?: string | undefined;
}

const ownTimeZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** A header cell: what it says, and how its column is sorted. */
export interface Header {
  readonly name: string;
  readonly label: string;
  readonly sortable: boolean;
  readonly sorted: 'ascending' | 'descending' | undefined;
  /** The next sort: ascending, descending, none; `add` keeps the other terms. */
  readonly sort: (add?: boolean) => void;
  readonly condition: Condition | undefined;
  readonly setCondition: (condition: Condition | undefined) => void;
}

/** The pages of a result, counted from 1. */
export interface Pager {
  readonly page: number;
  /** Undefined where nobody counts. */
  readonly count: number | undefined;
  readonly size: number;
  readonly sizes: readonly number[];
  readonly goTo: (page: number) => void;
  readonly setSize: (size: number) => void;
  readonly hasNext: boolean;
  readonly hasPrevious: boolean;
}

/** All that a view of a table needs, to be drawn in whatever way. */
export interface Records extends SourceState {
  readonly description: TableDescription | undefined;
  /** The columns asked for, described. */
  readonly columns: readonly ColumnDescription[];
  readonly headers: readonly Header[];
  /** The sort in force: what the reader has chosen, else what is asked for anyway. */
  readonly sort: TableState['sort'];
  /** The query in force. */
  readonly query: WrittenQuery;
  readonly source: RowSource | OutlineSource;
  /** The rows of the window, by position; undefined while they are on their way. */
  readonly rows: readonly (Row | undefined)[];
  /** The rows looked at: the page, or what `setVisibleRows` has chosen; `to` is not one of them. */
  readonly window: { readonly from: number; readonly to: number };
  /** Chooses the window, where rows are read by scrolling. */
  readonly setVisibleRows: (from: number, to: number) => void;
  readonly pager: Pager;
  readonly selection: Selection;
  /** Where the query is answered; undefined where its client keeps nothing. */
  readonly kept: Kept | undefined;
  readonly search: string;
  readonly setSearch: (words: string) => void;
  readonly retry: () => void;
  readonly state: TableState;
  readonly change: ChangeState;
}

const waiting: SourceState = {
  total: undefined,
  totalKind: 'none',
  open: false,
  status: 'loading',
  error: undefined,
  retryAt: undefined,
};

/** A source that has nothing, or nothing but an error. */
function without(error: Error | undefined, retry: () => void): RowSource {
  const state: SourceState =
    error === undefined ? waiting : { ...waiting, status: 'failed', error };
  return {
    state: () => state,
    row: () => undefined,
    setVisibleRows: () => undefined,
    subscribe: () => () => undefined,
    retry,
    close: () => undefined,
  };
}

const nowhere = new Error('Nobody says where they are: give a client and a table, or a source.');

const sizes = [50, 100, 200];
const noQuery: WrittenQuery = {};

/**
 * Rows of a table in a view's own hands: give it a client and a table, and draw what comes back.
 * Asks anew when the question changes, and forgets what is no longer looked at.
 */
export function useRecords(options: RecordsOptions): Records {
  return useRecordsOf(options, true);
}

/** The same for a view that looks at the source itself, where `looking` is false. */
export function useRecordsOf(options: RecordsOptions, looking: boolean): Records {
  const { table, query: base = noQuery, reading = 'pages', rowKey } = options;
  const client = useSteady('the client', options.client);
  const [state, change] = useTableState(options);
  const described = useDescribed(client, table, options.columns);
  const { table: description, error, retry: describeAgain } = described;
  const columns = options.described ?? described.columns;
  const key = description?.key ?? rowKey ?? [];
  // What there is not was told; the rest is shown all the same.
  const there = options.client === undefined ? options.columns : columns.map(({ name }) => name);
  const asked = options.columns && there && [...new Set([...there, ...key])];
  const { timeZone = ownTimeZone } = options;
  const query = askedBy(state, base, columns, asked, timeZone);
  const chosen = state.pageSize > 0 ? state.pageSize : base.limit;
  const size = chosen ?? description?.pageSizes[0] ?? 50;
  // The same question is the same source, however often it is put together.
  const question = JSON.stringify([printParameters(query), reading, reading === 'pages' && size]);
  const own = options.source !== undefined;
  const same = useSame(
    { query, reading, size, from: options.source },
    `${String(own)} ${question}`,
  );
  const source = useMemo(() => {
    const { query, reading, size, from } = same;
    if (from !== undefined) return from(query);
    if (client === undefined || table === undefined) return without(nowhere, describeAgain);
    if (description === undefined) return without(error, describeAgain);
    return sourceOf(client, table, query, {
      keyed: description.key.length > 0,
      key: description.key,
      blockSize: reading === 'pages' ? size : 100,
      ahead: reading === 'pages' ? 0 : 1,
    });
  }, [client, table, description, same, error, describeAgain]);
  useClosedSource(source);
  const sourceState = useSource<unknown>(source);

  const [looked, look] = useState({ from: 0, to: 0 });
  const { total, open } = sourceState;
  const from = reading === 'pages' ? (state.page - 1) * size : looked.from;
  const wanted = reading === 'pages' ? from + size : looked.to;
  useEffect(() => {
    if (looking && (reading === 'pages' || wanted > from)) source.setVisibleRows(from, wanted);
  }, [source, looking, reading, from, wanted]);
  const to = total === undefined || open ? wanted : Math.max(from, Math.min(wanted, total));
  const rows = Array.from({ length: to - from }, (_, index) => rowAt(source, from + index));

  // Another question begins at its beginning; the first is whole once the table is described.
  const known = own || description !== undefined;
  const first = useRef<string>(undefined);
  useEffect(() => {
    if (!known || first.current === question) return;
    if (first.current !== undefined) change({ page: 1 });
    first.current = question;
  }, [known, question, change]);

  const count = total === undefined || open ? undefined : Math.max(1, pageCount(total, size));
  // A page past the end, as an old address may have it, is the last one.
  const past = reading === 'pages' && count !== undefined && state.page > count;
  useEffect(() => {
    if (past) change({ page: count });
  }, [past, count, change]);
  const pager: Pager = {
    page: state.page,
    count,
    size,
    sizes: withSize(description?.pageSizes ?? sizes, base.limit),
    goTo: (page) => change({ page: Math.max(1, Math.min(page, count ?? Infinity)) }),
    setSize: (pageSize) => change({ pageSize }),
    hasPrevious: state.page > 1,
    hasNext: count === undefined ? rows.some((row) => row !== undefined) : state.page < count,
  };
  // Until a reader sorts, the sort that is asked for anyway is the one in force.
  const given = (base.sort ?? []).map(({ column, descending }) => ({
    column: column.name,
    descending,
  }));
  const sorts = state.sort.length > 0 ? state.sort : given;
  const headers = columns.map((column): Header => {
    const { name } = column;
    const mark = sorts.find((one) => one.column === name);
    return {
      name,
      label: column.label,
      sortable: column.sortable,
      sorted: mark && (mark.descending ? 'descending' : 'ascending'),
      sort: (add = false) => change((last) => ({ sort: nextSort(last.sort, name, add) })),
      condition: state.conditions[name],
      setCondition: (condition) => change((last) => withCondition(last, name, condition)),
    };
  });
  const selection = useSelection(key, state.selected, rows, change);
  return {
    description,
    columns,
    headers,
    sort: sorts,
    query,
    source,
    ...sourceState,
    rows,
    window: { from, to },
    setVisibleRows: useCallback((start: number, end: number) => look({ from: start, to: end }), []),
    pager,
    selection,
    kept: table === undefined ? undefined : client?.kept?.(table, query),
    search: state.search,
    setSearch: useCallback((search: string) => change({ search }), [change]),
    retry: source.retry,
    state,
    change,
  };
}

/** Sizes of pages with the one among them that is asked for. */
function withSize(offered: readonly number[], own: number | undefined): readonly number[] {
  if (own === undefined || offered.includes(own)) return offered;
  return [...offered, own].sort((one, other) => one - other);
}

/** The state with another condition on a column, or with none. */
export function withCondition(
  { conditions }: TableState,
  column: string,
  condition: Condition | undefined,
): Pick<TableState, 'conditions'> {
  const others = Object.fromEntries(Object.entries(conditions).filter(([name]) => name !== column));
  return { conditions: condition === undefined ? others : { ...others, [column]: condition } };
}

function sourceOf(
  client: AskedClient,
  table: string,
  query: WrittenQuery,
  options: { keyed: boolean; key: readonly string[]; blockSize: number; ahead: number },
): RowSource | OutlineSource {
  const askRows: AskedRows = (window, signal) => client.rows(table, window, signal);
  if (query.group !== undefined && query.group.length > 0) {
    const { keyed } = options;
    return outlineSource({
      query,
      keyed,
      askRows,
      askGroups: (window, signal) => client.groups(table, window, signal),
    });
  }
  return remoteRows({ ...options, query, ask: askRows });
}

type AskedRows = Parameters<typeof outlineSource>[0]['askRows'];
