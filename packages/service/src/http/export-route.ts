import type { ServerResponse } from 'node:http';
import { fileWords } from '@ephoros/core/file';
import type { PlannedExport, TableAnswers } from '../engine/index.ts';
import { sinkOf, type FileProgressStore, type FileForm, type Sink } from '../export/index.ts';
import type { Parameters } from '../query/index.ts';
import type { ApiRequest } from './exchange.ts';
import { placeOf, ticketProblems, writeProgress } from './file-ticket.ts';

/** A question as it was given, with the parameters that say how a file is written. */
type Given = Omit<Parameters, 'values'> & {
  readonly values: Readonly<Record<string, string | undefined>>;
};

/** Where the progress of an export is reported, and whose it is. */
interface ExportAudience {
  readonly progressStore: FileProgressStore;
  readonly caller: string | undefined;
}

/** Answers a question by a file. @throws Refused, Failure */
export async function answerByFile(
  table: TableAnswers,
  given: Given,
  request: ApiRequest,
  response: ServerResponse,
  { progressStore, caller }: ExportAudience,
): Promise<void> {
  const { ticket, format, header, delimiter, missing, bom, formulas, levels, limit, ...others } =
    given.values;
  const { 'line-end': lineEnd, 'value-labels': labels, ...values } = others;
  // What was stated and is not among the words is a problem by now.
  const form: FileForm = {
    format: wordOf(fileWords.format, format),
    header: wordOf(fileWords.header, header),
    delimiter: wordOf(fileWords.delimiter, delimiter),
    missing: wordOf(fileWords.missing, missing),
    'line-end': wordOf(fileWords['line-end'], lineEnd),
    bom: bom === 'true',
    formulas: formulas === 'true',
    'value-labels': labels === 'true',
    levels: wordOf(fileWords.levels, levels),
  };
  const problems = [...given.problems, ...ticketProblems(ticket)];
  const planned = await table.export({ ...given, values, problems }, limit, form);
  const place = ticket === undefined ? undefined : placeOf(ticket, caller);
  await sendExport(request, response, planned, (sink) =>
    writeProgress(planned, sink, progressStore, place, () => response.destroyed),
  );
}

/** One of some words; the first of them where nothing is stated. */
function wordOf<Word extends string>(
  [first, ...others]: readonly [Word, ...Word[]],
  text: string | undefined,
): Word {
  return others.find((one) => one === text) ?? first;
}

/**
 * Sends a file as it is written. What goes wrong before its first byte is reported as ever; behind that the connection is
 * broken off, so that nobody takes a part for the whole.
 */
async function sendExport(
  request: ApiRequest,
  response: ServerResponse,
  planned: PlannedExport,
  write: (sink: Sink) => Promise<number>,
): Promise<void> {
  const { table, format, mediaType, rows, about } = planned;
  const headers = {
    'Content-Type': mediaType,
    'Content-Disposition': dispositionOf(`${table}.${format}`),
    // Compressed it would wait for more, and could not be gone on with.
    'Cache-Control': 'no-store, no-transform',
    ...(rows === undefined ? {} : { 'Ephoros-Rows': String(rows) }),
    ...(about === undefined ? {} : { 'Ephoros-Rows-About': String(about) }),
  };
  if (request.method === 'HEAD') {
    response.writeHead(200, headers).end();
    return;
  }
  const begin = (): void => {
    if (!response.headersSent) response.writeHead(200, { ...headers, Trailer: rowsSent });
  };
  const to = sinkOf(response);
  const count = await write({
    write: async (piece) => {
      if (piece.length === 0) return;
      begin();
      await to.write(piece);
    },
  });
  begin();
  response.addTrailers({ [rowsSent]: String(count) });
  response.end();
}

/** Reports at the end how many rows it was. */
const rowsSent = 'Ephoros-Rows-Sent';

/** Says what a file is called (RFC 6266): in ASCII for anyone who reads no more, and as it is (RFC 8187). */
function dispositionOf(name: string): string {
  const plain = name.replaceAll(/[^\w .()-]/g, '_');
  const code = (sign: string): string => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`;
  const whole = encodeURIComponent(name).replaceAll(/['()*]/g, code);
  return `attachment; filename="${plain}"; filename*=UTF-8''${whole}`;
}
