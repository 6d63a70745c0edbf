import {
  groupsPart,
  printParameters,
  rowsPart,
  windowPart,
  type QueryParameter,
  type WrittenQuery,
} from '@ephoros/core/query';
import { printKey, type TableDescription } from '@ephoros/core/schema';
import type {
  AggregatesAnswer,
  GroupsAnswer,
  MilepostsAnswer,
  Row,
  RowsAnswer,
  TableList,
  Value,
  ValuesAnswer,
  WrittenAnswer,
} from '@ephoros/core/answer';
import { changesOver, type ChangesClient } from './changes.ts';
import { selectionsOver, type SelectionsClient } from './selections.ts';
import type { ValuesOptions } from './query-client.ts';
import { queryBuilder, type QueryBuilder } from './query-builder.ts';
import type { AnyTables, ColumnName, NameOf, TableSet } from './table-types.ts';
import { viewsOver, type ViewsClient } from './views.ts';
import {
  Transport,
  withParameters,
  type ClientOptions,
  type Pair,
  type OnProgress,
} from './transport.ts';

/**
 * Questions to a service. Every method rejects with a `ServiceError`, or with the signal's
 * reason when the signal aborts.
 */
export interface Client<Tables extends TableSet<Tables> = AnyTables> {
  /** For the compiler alone, which knows the tables by it; there is no such value. */
  readonly tableTypes?: Tables;
  tables(signal?: AbortSignal): Promise<TableList>;
  describe(table: NameOf<Tables>, signal?: AbortSignal): Promise<TableDescription>;
  /** What takes the service long is requested until it is there; `onProgress` is called with the progress. */
  rows(
    table: NameOf<Tables>,
    query?: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<RowsAnswer>;
  /** One row by the values of its key, in the key's order, as rows hold them. */
  row<Name extends NameOf<Tables>>(
    table: Name,
    key: readonly KeyValue[],
    signal?: AbortSignal,
  ): Promise<Tables[Name]['row']>;
  /** The sort values at up to `ticks` even positions of a query's result. */
  mileposts(
    table: NameOf<Tables>,
    query?: WrittenQuery,
    ticks?: number,
    signal?: AbortSignal,
  ): Promise<MilepostsAnswer>;
  /**
   * A mark of what a query reads: another one once something was written to it. Null where nobody
   * can tell. It is no request that a log lists.
   */
  written(
    table: NameOf<Tables>,
    query?: WrittenQuery,
    signal?: AbortSignal,
  ): Promise<string | null>;
  /** The lines of the level of a query's grouping that its path leads to. */
  groups(
    table: NameOf<Tables>,
    query: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<GroupsAnswer>;
  /** The aggregates of a query's whole result. */
  aggregates(
    table: NameOf<Tables>,
    query?: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<AggregatesAnswer>;
  /** The values of a column under a query, without what the query says about it alone. */
  values<Name extends NameOf<Tables>>(
    table: Name,
    column: ColumnName<Tables[Name]>,
    query?: WrittenQuery,
    options?: ValuesOptions,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<ValuesAnswer>;
  /** Selections that the service keeps. */
  readonly selections: SelectionsClient;
  /** Views that the service keeps under names. */
  readonly views: ViewsClient;
  /** Changes of rows, and what was changed of them. */
  readonly changes: ChangesClient;
  /** The URL that a query of a table is sent to. */
  rowsUrl(table: NameOf<Tables>, query?: WrittenQuery): string;
  /** The URL that the lines of a query's groups are requested at. */
  groupsUrl(table: NameOf<Tables>, query: WrittenQuery): string;
  /** A question about a table, put together step by step and checked against its types. */
  table<Name extends NameOf<Tables>>(table: Name): QueryBuilder<Tables[Name], Tables[Name]['row']>;
}

/** A value of a key, as a row holds it or as a program has it. */
export type KeyValue = string | number | bigint | boolean | Date;

/** A value of a key as an address spells it. */
export function keyText(value: KeyValue): string {
  return value instanceof Date ? value.toISOString() : String(value);
}

interface ArraysAnswer extends Omit<RowsAnswer, 'rows'> {
  readonly rows: readonly (readonly Value[])[];
}

/** A client of a service, or of the router in an application. */
export function createClient<Tables extends TableSet<Tables> = AnyTables>(
  options: ClientOptions,
): Client<Tables> {
  const transport = new Transport(options);
  const addressOf = (table: string): string => transport.addressOf(table);
  const get = (address: string, signal?: AbortSignal): Promise<unknown> =>
    transport.get(address, signal);
  const request = async (
    address: string,
    pairs: readonly Pair[],
    signal: AbortSignal | undefined,
    onProgress: OnProgress | undefined,
    posted = address,
  ): Promise<unknown> =>
    (await transport.query(address, pairs, signal, posted, { onProgress })).answer;

  const client: Client = {
    table: (table) => queryBuilder(() => client, table),
    tables: async (signal) => (await get(transport.addressOf(), signal)) as TableList,
    describe: async (table, signal) => (await get(addressOf(table), signal)) as TableDescription,
    rows: async (table, query = {}, signal, onProgress) => {
      const address = addressOf(table);
      // Names once instead of in every row.
      const pairs = printParameters({ ...rowsPart(query), shape: 'arrays' });
      const read = await request(`${address}/rows`, pairs, signal, onProgress, `${address}/query`);
      const answer = read as ArraysAnswer;
      return { ...answer, rows: answer.rows.map((values) => byName(answer.columns, values)) };
    },
    row: async (table, key, signal) => {
      const address = `${addressOf(table)}/rows/${printKey(key.map(keyText))}`;
      const { row } = (await get(address, signal)) as { row: Row };
      return row;
    },
    mileposts: async (table, query = {}, ticks = 200, signal) => {
      const pairs = [
        ...parametersOf(rowsPart(query), ['sort', 'nulls']),
        ['ticks', String(ticks)] as Pair,
      ];
      const address = withParameters(`${addressOf(table)}/mileposts`, pairs);
      return (await get(address, signal)) as MilepostsAnswer;
    },
    written: async (table, query = {}, signal) => {
      const pairs = printParameters(rowsPart(query));
      const address = `${addressOf(table)}/written`;
      const unlogged = { unlogged: true };
      const { answer } = await transport.query(address, pairs, signal, address, unlogged);
      return (answer as WrittenAnswer).mark;
    },
    groups: async (table, query, signal, onProgress) => {
      const address = `${addressOf(table)}/groups`;
      return (await request(address, groupPairs(query), signal, onProgress)) as GroupsAnswer;
    },
    aggregates: async (table, query = {}, signal, onProgress) => {
      const pairs = parametersOf(query, ['aggregate']);
      const address = `${addressOf(table)}/aggregates`;
      return (await request(address, pairs, signal, onProgress)) as AggregatesAnswer;
    },
    values: async (
      table,
      column,
      query = {},
      { containing, bins, counts } = {},
      signal,
      onProgress,
    ) => {
      const pairs: readonly Pair[] = [
        ...parametersOf(query, orderAndPlace),
        ...(containing === undefined ? [] : [['containing', containing] as Pair]),
        ...(bins === undefined ? [] : [['bins', String(bins)] as Pair]),
        ...(counts === undefined ? [] : [['counts', String(counts)] as Pair]),
      ];
      const address = `${addressOf(table)}/values/${encodeURIComponent(column)}`;
      return (await request(address, pairs, signal, onProgress)) as ValuesAnswer;
    },
    selections: selectionsOver(transport),
    views: viewsOver(transport),
    changes: changesOver(transport),
    groupsUrl: (table, query) => withParameters(`${addressOf(table)}/groups`, groupPairs(query)),
    rowsUrl: (table, query = {}) =>
      withParameters(`${addressOf(table)}/rows`, printParameters(rowsPart(query))),
  };
  // Types of the tables are a promise of the program's: nothing at run time depends on them.
  return client as Client<Tables>;
}

const orderAndPlace: readonly QueryParameter[] = [
  'sort',
  'nulls',
  'limit',
  'page',
  'offset',
  'after',
  'before',
];

/** The parameters by which the lines of groups are requested. */
function groupPairs(query: WrittenQuery): readonly Pair[] {
  return printParameters({ ...groupsPart(query), ...windowPart(query) });
}

/** What says which rows, and those of the other parameters that are named. */
function parametersOf(query: WrittenQuery, names: readonly QueryParameter[]): readonly Pair[] {
  const taken = new Set<QueryParameter>(['filter', 'filter-lang', 'search', ...names]);
  return printParameters(query).filter(([name]) => taken.has(name));
}

function byName(names: readonly string[], values: readonly Value[]): Row {
  const row: Record<string, Value> = {};
  for (const [index, name] of names.entries()) row[name] = values[index] ?? null;
  return row;
}
