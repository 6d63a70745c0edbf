import { printParameters, type Query } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import type { MilepostsAnswer, Row, RowsAnswer, TableList, Value } from './answers.ts';
import { ServiceError } from './service-error.ts';

export interface ClientOptions {
  /** Where the service is, such as "http://127.0.0.1:4620"; "" for the page's own origin. */
  readonly url: string;
  /** Used instead of the global `fetch`. */
  readonly fetch?: typeof fetch;
}

/**
 * Questions to a service. Every method rejects with a `ServiceError`, or with the signal's
 * reason when the signal aborts.
 */
export interface Client {
  tables(signal?: AbortSignal): Promise<TableList>;
  describe(table: string, signal?: AbortSignal): Promise<TableDescription>;
  rows(table: string, query?: Query, signal?: AbortSignal): Promise<RowsAnswer>;
  /** One row by the values of its key, in the key's order. */
  row(table: string, key: readonly (string | number)[], signal?: AbortSignal): Promise<Row>;
  /** The sort values at up to `ticks` even positions of a query's result. */
  mileposts(
    table: string,
    query?: Query,
    ticks?: number,
    signal?: AbortSignal,
  ): Promise<MilepostsAnswer>;
  /** The URL that a query of a table is asked at. */
  rowsUrl(table: string, query?: Query): string;
}

interface ArraysAnswer extends Omit<RowsAnswer, 'rows'> {
  readonly rows: readonly (readonly Value[])[];
}

export function createClient({ url, fetch: ask = fetch }: ClientOptions): Client {
  const base = `${url.replace(/\/$/, '')}/api/tables`;
  const addressOf = (table: string): string => `${base}/${encodeURIComponent(table)}`;

  const get = async (address: string, signal?: AbortSignal, body?: string): Promise<unknown> => {
    let response: Response;
    try {
      response = await ask(address, {
        headers: { Accept: 'application/json' },
        ...(body === undefined ? {} : { method: 'POST', body }),
        ...(signal === undefined ? {} : { signal }),
      });
    } catch (cause) {
      if (signal?.aborted === true) throw cause;
      throw new ServiceError('away', 'The service cannot be reached.', { cause });
    }
    if (!response.ok) throw await ServiceError.from(response);
    try {
      return await response.json();
    } catch (cause) {
      if (signal?.aborted === true) throw cause;
      throw new ServiceError('away', 'The connection broke in the middle of an answer.', { cause });
    }
  };

  const rowsUrl = (table: string, query: Query = {}): string => {
    const parameters = parametersOf(query);
    return `${addressOf(table)}/rows${parameters.length === 0 ? '' : `?${parameters.join('&')}`}`;
  };

  return {
    tables: async (signal) => (await get(base, signal)) as TableList,
    describe: async (table, signal) => (await get(addressOf(table), signal)) as TableDescription,
    rows: async (table, query = {}, signal) => {
      // Names once instead of in every row.
      const lean: Query = { ...query, shape: 'arrays' };
      const address = rowsUrl(table, lean);
      // Past what every server and proxy takes as a URL the question goes into a body.
      const answer = (await (address.length <= mostUrl
        ? get(address, signal)
        : get(`${addressOf(table)}/query`, signal, JSON.stringify(asBody(lean))))) as ArraysAnswer;
      return { ...answer, rows: answer.rows.map((values) => byName(answer.columns, values)) };
    },
    row: async (table, key, signal) => {
      const parts = key.map((part) => encodeURIComponent(part)).join(',');
      const { row } = (await get(`${addressOf(table)}/rows/${parts}`, signal)) as { row: Row };
      return row;
    },
    mileposts: async (table, query = {}, ticks = 200, signal) => {
      const { filter, search, sort, nulls } = query;
      const asked = parametersOf({
        ...(filter && { filter }),
        ...(search && { search }),
        ...(sort && { sort }),
        ...(nulls && { nulls }),
      });
      const parameters = [...asked, `ticks=${ticks}`].join('&');
      const address = `${addressOf(table)}/mileposts?${parameters}`;
      return (await get(address, signal)) as MilepostsAnswer;
    },
    rowsUrl,
  };
}

function parametersOf(query: Query): string[] {
  return printParameters(query).map(([name, text]) => `${name}=${encodeURIComponent(text)}`);
}

/** Characters of a URL. */
const mostUrl = 4_000;

function asBody(query: Query): Record<string, string> {
  return Object.fromEntries(printParameters(query));
}

function byName(names: readonly string[], values: readonly Value[]): Row {
  const row: Record<string, Value> = {};
  for (const [index, name] of names.entries()) row[name] = values[index] ?? null;
  return row;
}
