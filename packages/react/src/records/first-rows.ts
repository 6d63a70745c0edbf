import {
  fetchWhole,
  catalogOf,
  type AnyTables,
  type ColumnName,
  type NameOf,
  type Row,
  type TableSet,
  type WindowAnswer,
  type WrittenQuery,
} from '@ephoros/client';
import { rowsPart } from '@ephoros/core/query';
import { shownNames, type TableDescription } from '@ephoros/core/schema';
import { namesInView, namesPainted, type Reading, type View } from '@ephoros/core/view';
import type { RequestClient } from './request-client.ts';
import {
  requestedBy,
  namesRequested,
  opened,
  queryTextOf,
  scrollBlock,
  shownView,
  sortedAsRequested,
} from './requested-view.ts';
import { openingRequest, type Opening } from './opening.ts';
import { pageOf } from './pager.ts';

/** What a table begins with: plain data, as JSON has it. */
export interface FirstRows {
  readonly table: string;
  /** The table, and those that its columns lead to. */
  readonly descriptions: readonly TableDescription[];
  /** What the table's views begin with. */
  readonly opening?: Opening;
  /** Of no grouping: the block of rows that is looked at first, and the question it answers. */
  readonly block?: {
    readonly query: string;
    readonly from: number;
    readonly size: number;
    readonly answer: WindowAnswer<Row>;
  };
}

/** What a table is given; the same as `TableView` and `useRecords` are. */
export interface FirstRowsOptions<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
> {
  readonly client: RequestClient<Tables>;
  readonly table: Name;
  readonly query?: WrittenQuery | undefined;
  /** By their names, or as they are defined. */
  readonly columns?:
    readonly (ColumnName<Tables[Name]> | { readonly name: ColumnName<Tables[Name]> })[] | undefined;
  readonly extraColumns?: readonly ColumnName<Tables[Name]>[] | undefined;
  readonly view?: View | undefined;
  /** How rows are read where the view does not say; `scroll`, as by `TableView`, by default. */
  readonly reading?: Reading | undefined;
  readonly signal?: AbortSignal;
}

/**
 * Asks for what a table shows first, to be given to it as `initial`: on a server, in a loader, or
 * ahead of time. Rejects as the client does. Rows wait for no count: an estimate comes with them.
 */
export async function firstRows<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
>(given: FirstRowsOptions<Tables, Name>): Promise<FirstRows> {
  // Types of the tables are a promise of the program's: nothing at run time depends on them.
  const options = given as unknown as FirstRowsOptions;
  const { client, table: name, query = {}, view = {}, reading: usual = 'scroll' } = options;
  const catalog = catalogOf(client);
  const described = await catalog.describe(name);
  const opening = await openingRequest(described);
  const base = opened(query, opening);
  const table = sortedAsRequested(described, query);
  const shown = shownView(view, base);
  const defined = options.columns?.map((one) => (typeof one === 'string' ? one : one.name));
  const own = defined && [...defined, ...(options.extraColumns ?? [])];
  const chosen = own ?? (shown.columns ?? query.columns)?.map((one) => one.name);
  const all = chosen ?? shownNames(table);
  const found = await catalog.columns(
    [...all, ...namesInView({ ...(opening.paint && { paint: opening.paint }), ...shown })],
    described,
  );
  const descriptions = new Map([[name, described]]);
  for (const column of found) {
    for (const { table: other } of column?.path ?? []) {
      const known = catalog.known(other);
      if (known !== undefined) descriptions.set(other, known);
    }
  }
  const first = { table: name, descriptions: [...descriptions.values()], opening };
  // What a developer has named and there is not is left out; what a reader has is refused.
  const there =
    own === undefined
      ? (chosen ?? namesRequested(table))
      : found.slice(0, all.length).flatMap((one) => one?.name ?? []);
  const paintedBy = namesPainted(shown.paint ?? opening.paint ?? []).filter((one) =>
    found.some((column) => column?.name === one),
  );
  const names = there ?? (paintedBy.length > 0 ? shownNames(table) : undefined);
  const wanted = requestedBy(
    shown,
    base,
    names && [...new Set([...names, ...table.key, ...paintedBy])],
  );
  if ((wanted.group ?? []).length > 0) return first;
  const paged = (shown.reading ?? usual) === 'pages';
  const pageSize = shown.limit ?? table.pageSizes[0] ?? 50;
  const size = paged ? pageSize : scrollBlock;
  const row = paged ? pageOf(shown, pageSize).from : scrolledTo(shown);
  const from = row - (row % size);
  const request = queryTextOf(rowsPart(wanted));
  const answer = await fetchWhole<Row>(
    (window) => client.rows(name, window, options.signal),
    {
      ...rowsPart(wanted),
      limit: size,
      place: { kind: 'offset', offset: from },
      total: wanted.total ?? 'estimate',
    },
    table.key.length > 0,
  );
  return { ...first, block: { query: request, from, size, answer } };
}

function scrolledTo({ place }: View): number {
  return place?.kind === 'offset' ? place.offset : 0;
}
