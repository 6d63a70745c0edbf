import type { ServerResponse } from 'node:http';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { PlannedExport } from '../engine/index.ts';
import { sinkOf, type ExportFormat, type ExportOptions } from '../export/index.ts';
import { exportFileMembers } from './body.ts';
import type { ApiRequest } from './exchange.ts';

type Written = Readonly<Record<string, string | undefined>>;

const delimiters = { comma: ',', semicolon: ';', tab: '\t', bar: '|' } as const;
const missing = { empty: '', null: 'NULL', 'backslash-n': '\\N' } as const;

/** How a file is to be written, as a request says it, and what of that is wrong; the rest are other parameters. */
export function readFileForm(values: Written): {
  readonly form: ExportOptions & { readonly format: ExportFormat };
  readonly others: Written;
  readonly problems: readonly Problem[];
} {
  const problems: Problem[] = [];
  /** One of some words; the first of them where nothing is said. */
  const oneOf = <Word extends string>(name: string, first: Word, ...others: Word[]): Word => {
    const words = [first, ...others];
    const text = values[name];
    const found = words.find((one) => one === text);
    if (found === undefined && (text !== undefined || name === 'format')) {
      problems.push(...inParameter(name, [problem('not-one-of', { allowed: words.join(', ') })]));
    }
    return found ?? first;
  };
  const form = {
    format: oneOf('format', 'csv', 'ndjson', 'json', 'xlsx'),
    header: oneOf('header', 'names', 'labels', 'none'),
    delimiter: delimiters[oneOf('delimiter', 'comma', 'semicolon', 'tab', 'bar')],
    missing: missing[oneOf('missing', 'empty', 'null', 'backslash-n')],
    lineEnd: oneOf('line-end', 'crlf', 'lf'),
    bom: oneOf('bom', 'false', 'true') === 'true',
    formulas: oneOf('formulas', 'false', 'true') === 'true',
  };
  const others = Object.fromEntries(
    Object.entries(values).filter(([name]) => !exportFileMembers.includes(name)),
  );
  return { form, others, problems };
}

/**
 * Sends a file as it is written. What goes wrong before its first byte is told as ever; behind that the connection is
 * broken off, so that nobody takes a part for the whole.
 */
export async function sendExport(
  request: ApiRequest,
  response: ServerResponse,
  planned: PlannedExport,
): Promise<void> {
  const { table, format, mediaType, rows, about } = planned;
  const headers = {
    'Content-Type': mediaType,
    'Content-Disposition': `attachment; filename*=UTF-8\'\'${encoded(`${table}.${format}`)}`,
    // Compressed it would wait for more, and could not be gone on with.
    'Cache-Control': 'no-store, no-transform',
    ...(rows === undefined ? {} : { 'Ephoros-Rows': String(rows) }),
    ...(about === undefined ? {} : { 'Ephoros-Rows-About': String(about) }),
  };
  if (request.method === 'HEAD') {
    response.writeHead(200, headers).end();
    return;
  }
  const to = sinkOf(response);
  const count = await planned.write({
    write: async (piece) => {
      if (piece.length === 0) return;
      if (!response.headersSent) response.writeHead(200, { ...headers, Trailer: rowsSent });
      await to.write(piece);
    },
  });
  if (!response.headersSent) response.writeHead(200, { ...headers, Trailer: rowsSent });
  response.addTrailers({ [rowsSent]: String(count) });
  response.end();
}

/** Tells at the end how many rows it was. */
const rowsSent = 'Ephoros-Rows-Sent';

/** A text as parameters of headers have it (RFC 8187). */
function encoded(text: string): string {
  const code = (sign: string): string => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`;
  return encodeURIComponent(text).replaceAll(/['()*]/g, code);
}
