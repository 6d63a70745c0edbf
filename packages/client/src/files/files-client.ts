import type { FileProgress } from '@ephoros/core/answer';
import type { FileParameters } from '@ephoros/core/file';
import { groupsPart, printParameters, rowsPart, type WrittenQuery } from '@ephoros/core/query';
import { mostUrl, Transport, withParameters, type ClientOptions, type Pair } from '../transport.ts';

/** A file as it comes. */
export interface RowsFile {
  /** What the service would call it. */
  readonly name: string;
  readonly mediaType: string;
  /** Rows that it will have; undefined where nobody has counted them. */
  readonly rows: number | undefined;
  /** About as many, where they are not counted. */
  readonly about: number | undefined;
  /** Its bytes. It fails where the file is broken off: what has come by then is not the whole. */
  readonly body: ReadableStream<Uint8Array<ArrayBuffer>>;
}

/** Files of rows. Apart from the client, so that a page that offers none does not load it. */
export interface FilesClient {
  /**
   * All rows of a query, in its order and with its columns, as a file of one snapshot; of a query that is grouped all
   * groups of its last level, a line each. `limit` and `offset` hold, pages do not. An abort has it cancelled in the
   * database too. @throws ServiceError
   */
  open(
    table: string,
    query: WrittenQuery,
    form: FileParameters,
    signal?: AbortSignal,
  ): Promise<RowsFile>;
  /** The address that such a file is found at, however long that is. */
  url(table: string, query: WrittenQuery, form: FileParameters): string;
  /**
   * How far a file is that was requested with this ticket, also one that a browser saves by itself from `url`.
   * @throws ServiceError where none was, or it is long whole
   */
  progress(ticket: string, signal?: AbortSignal): Promise<FileProgress>;
  /**
   * The address of a report of a view, whose parameters are those of its address; absent where nobody makes reports.
   */
  readonly report?: (table: string, parameters: readonly Pair[], format: 'html' | 'pdf') => string;
}

/** What files are requested by. */
export interface FilesOptions extends ClientOptions {
  /** Where reports are made, such as `/report`, which `ephoros serve` has; nowhere by default. */
  readonly reports?: string;
}

/** Files of a service's rows, by the same options as its client. */
export function filesClient({ reports, ...options }: FilesOptions): FilesClient {
  const transport = new Transport(options);
  const addressOf = (table: string): string => `${transport.addressOf(table)}/export`;
  return {
    open: async (table, query, form, signal) => {
      const address = addressOf(table);
      const pairs = pairsOf(query, form);
      const path = withParameters(address, pairs);
      const response = await (path.length <= mostUrl
        ? transport.respond(path, signal)
        : transport.respond(address, signal, JSON.stringify(Object.fromEntries(pairs)), {
            method: 'POST',
            headers: { 'Content-Type': 'application/json' },
          }));
      const { headers, body } = response;
      return {
        name: `${table}.${form.format}`,
        mediaType: headers.get('Content-Type') ?? '',
        rows: countIn(headers, 'Ephoros-Rows'),
        about: countIn(headers, 'Ephoros-Rows-About'),
        body: body ?? new Blob([]).stream(),
      };
    },
    url: (table, query, form) => withParameters(addressOf(table), pairsOf(query, form)),
    progress: async (ticket, signal) =>
      (await transport.get(transport.addressIn('exports', ticket), signal)) as FileProgress,
    ...(reports !== undefined && {
      report: (table, parameters, format) =>
        withParameters(`${reports}/tables/${encodeURIComponent(table)}`, [
          ...parameters,
          ['format', format],
        ]),
    }),
  };
}

function pairsOf(query: WrittenQuery, form: FileParameters): readonly Pair[] {
  const { total, shape, cells, ...rows } = rowsPart(query);
  const { limit, place } = rows;
  const terms =
    query.group === undefined
      ? rows
      : { ...groupsPart(query), ...(limit !== undefined && { limit }), ...(place && { place }) };
  const written = Object.entries(form).map(([name, value]): Pair => [name, String(value)]);
  return [...printParameters(terms), ...written];
}

function countIn(headers: Headers, name: string): number | undefined {
  const text = headers.get(name);
  return text === null ? undefined : Number(text);
}
