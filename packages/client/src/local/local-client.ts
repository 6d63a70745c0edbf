import { keyText, type Client } from '../client.ts';
import type { Simulation } from '@ephoros/core/simulation';
import { simulated } from '../simulated.ts';
import { queryBuilder } from '../query-builder.ts';
import { ServiceError } from '../service-error.ts';
import type { AnyTables, TableSet } from '../table-types.ts';
import { LocalAnswers } from './answering.ts';
import { localTable, type LocalTableOptions } from './table.ts';
import {
  DataError,
  rowsOfArray,
  rowsOfCsv,
  rowsOfHtml,
  rowsOfJson,
  rowsOfNdjson,
  type GivenRows,
  type HtmlTable,
} from './texts.ts';

/** Rows at hand, in one of the forms in which they come. */
export type LocalData =
  | { readonly rows: readonly object[] }
  | { readonly json: string }
  | { readonly ndjson: string }
  | { readonly csv: string; readonly delimiter?: string }
  /** A table element that is in the page. */
  | { readonly html: HtmlTable };

export type LocalTableSource = LocalData & LocalTableOptions;

/**
 * A client over rows at hand, by the names of their tables: the same questions, the same answers
 * and the same refusals as over a service, without one. Data that cannot be read is an error of every
 * question about its table, as a service that fails would be.
 */
export function createLocalClient<Tables extends TableSet<Tables> = AnyTables>(
  sources: Readonly<Record<string, LocalTableSource>>,
  { simulate }: LocalClientOptions = {},
): Client<Tables> {
  const tables = new Map(
    Object.entries(sources).map(([name, source]): [string, () => LocalAnswers] => {
      let read: LocalAnswers | DataError | undefined;
      return [
        name,
        () => {
          read ??= readData(name, source);
          if (!(read instanceof DataError)) return read;
          throw new ServiceError('failed', read.message, { cause: read });
        },
      ];
    }),
  );
  return clientOver(tables, simulate) as Client<Tables>;
}

export interface LocalClientOptions {
  /** Slowness and failures on demand, to be looked at; see `Simulation`. */
  readonly simulate?: Simulation | undefined;
}

/** A client whose answers are made at once, each by the table that it is about. */
function clientOver(
  tables: ReadonlyMap<string, () => LocalAnswers>,
  simulation: Simulation | undefined,
): Client {
  const find = (name: string): LocalAnswers => {
    const table = tables.get(name);
    if (table !== undefined) return table();
    const known = [...tables.keys()].join(', ');
    throw new ServiceError('refused', `Unknown table ${name}. Known tables: ${known}.`, {
      status: 404,
    });
  };
  /** Answers come later, as they do from elsewhere, or reject. */
  const later = async <Answer>(
    make: () => Answer | Promise<Answer>,
    signal: AbortSignal | undefined,
  ): Promise<Answer> => {
    await Promise.resolve();
    signal?.throwIfAborted();
    await simulated(simulation, signal);
    return make();
  };
  const client: Client = {
    table: (table) => queryBuilder(() => client, table),
    tables: (signal) =>
      later(
        () => ({
          title: 'Local tables',
          tables: [...tables.values()].map((table) => {
            const { name, title, kind, estimatedRows } = table().description;
            const links = { description: `#${name}`, rows: `#${name}/rows` };
            return { name, title, kind, estimatedRows, links };
          }),
        }),
        signal,
      ),
    describe: (table, signal) => later(() => find(table).description, signal),
    rows: (table, query = {}, signal) => later(() => find(table).rows(query), signal),
    row: (table, key, signal) =>
      later(async () => {
        const row = await find(table).row(key.map(keyText));
        if (row !== undefined) return row;
        throw new ServiceError('refused', `${table} has no such row.`, { status: 404 });
      }, signal),
    mileposts: (table, query = {}, ticks = 200, signal) =>
      later(() => find(table).mileposts(query, ticks), signal),
    // What changes here is known as it happens.
    written: () => Promise.resolve(null),
    groups: (table, query, signal) => later(() => find(table).groups(query), signal),
    aggregates: (table, query = {}, signal) => later(() => find(table).aggregates(query), signal),
    values: (table, column, query = {}, options = {}, signal) =>
      later(() => find(table).values(column, query, options), signal),
    // Rows at hand are selected where they are.
    changes: {
      save: (changes, { table = '', dryRun = false } = {}, signal) =>
        later(() => find(table).save(changes, dryRun), signal),
      undo: remembersNothing,
      // What is local is saved at once, or not at all.
      withdraw: () => Promise.resolve(null),
      history: remembersNothing,
    },
    selections: {
      keep: storedNowhere,
      read: storedNowhere,
      change: storedNowhere,
      drop: storedNowhere,
    },
    views: {
      keep: storedNowhere,
      read: storedNowhere,
      list: storedNowhere,
      change: storedNowhere,
      drop: storedNowhere,
    },
    rowsUrl: (table) => `#${table}/rows`,
    groupsUrl: (table) => `#${table}/groups`,
  };
  return client;
}

async function remembersNothing(): Promise<never> {
  await Promise.resolve();
  throw new ServiceError('refused', 'Local tables remember no changes.', { status: 400 });
}

async function storedNowhere(): Promise<never> {
  await Promise.resolve();
  throw new ServiceError('refused', 'Local tables keep no selections and no views.', {
    status: 400,
  });
}

function readData(name: string, source: LocalTableSource): LocalAnswers | DataError {
  try {
    return new LocalAnswers(localTable(name, given(source), source));
  } catch (thrown) {
    if (thrown instanceof DataError) return thrown;
    throw thrown;
  }
}

function given(source: LocalData): GivenRows {
  if ('rows' in source) return rowsOfArray(source.rows);
  if ('json' in source) return rowsOfJson(source.json);
  if ('ndjson' in source) return rowsOfNdjson(source.ndjson);
  if ('csv' in source) {
    return rowsOfCsv(
      source.csv,
      source.delimiter === undefined ? {} : { delimiter: source.delimiter },
    );
  }
  return rowsOfHtml(source.html);
}
