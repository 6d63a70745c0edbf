import { constants, createReadStream } from 'node:fs';
import { open, rename, rm } from 'node:fs/promises';
import { extname } from 'node:path';
import { ServiceError } from '@ephoros/client';
import { fileWords, RecordEnds, type FileFormat } from '@ephoros/core/file';
import { InputError } from './input-error.ts';
import { lastKey } from './last-key.ts';
import { expectFree, forFiles, sizeOf, unwritable } from './out-file.ts';
import { plain, plainPieces } from './output/plain.ts';
import { progressOn } from './output/progress.ts';
import { addressed, QueryError, type Requested, type TypedParameters } from './request.ts';
import type { Terminal } from './terminal.ts';

/** Where a file goes, and how it is written where that is no text. */
export interface ExportTo {
  readonly format?: FileFormat | undefined;
  readonly out?: string | undefined;
  readonly overwrite?: boolean | undefined;
  readonly resume?: boolean | undefined;
  readonly bom?: boolean | undefined;
  readonly formulas?: boolean | undefined;
  readonly valueLabels?: boolean | undefined;
}

/** Formats whose rows can be distinguished as they come. */
const byRow: ReadonlySet<string> = new Set<FileFormat>(['csv', 'ndjson']);

/** What is there already of a file that was broken off. */
interface There {
  readonly rows: number;
  readonly bytes: number;
  /** Where its last whole row begins. */
  readonly last: number;
}

const nothing: There = { rows: 0, bytes: 0, last: 0 };

/**
 * Has all rows of a question written into a file. As long as it is not whole it is called otherwise; what is there of
 * one is left alone until the service has begun to answer.
 * @throws InputError, QuestionError
 */
export async function exportFile(
  wanted: Requested,
  table: string,
  parameters: TypedParameters,
  to: ExportTo,
  terminal: Terminal,
): Promise<void> {
  const { out, resume = false, bom, formulas, valueLabels } = to;
  const format = to.format ?? formatOf(out);
  const path = out === '-' ? undefined : out;
  await expectPlace(format, path, to, terminal);
  const part = path === undefined ? undefined : `${path}.part`;
  const there =
    resume && part !== undefined ? await wholeRows(part, format, parameters.header) : nothing;
  const after =
    part === undefined || there.rows === 0
      ? undefined
      : await lastKey(part, { wanted, table, parameters, to: { ...to, format }, there });
  const query = { ...parameters, ...behind(parameters, there, after) };
  let { rows } = there;
  // Of a limit that is reached nothing is left to be requested.
  if (query.limit !== '0' || there.rows === 0) {
    const form = { format, formulas, 'value-labels': valueLabels };
    const body = { ...query, ...form, ...(there.bytes === 0 ? { bom } : {}) };
    const response = await fetched(wanted, table, parameters, body);
    const replaces = to.overwrite === true || resume;
    const put =
      part === undefined ? screen(terminal, format) : await fileAt(part, there.bytes, replaces);
    rows += await written(response, query, { format, there, put, terminal });
  }
  if (path === undefined || part === undefined) return;
  await rename(part, path);
  const message = byRow.has(format) ? `${rows.toLocaleString('en')} rows in ` : '';
  terminal.stderr.write(`${message}${plain(path)}\n`);
}

/** The parameters that go on behind what is there; those that are wrong are left for the service to tell. */
function behind(
  { offset = '0', limit = '' }: TypedParameters,
  { rows, bytes }: There,
  after: string | undefined,
): TypedParameters {
  if (bytes === 0) return {};
  const left = /^\d+$/.test(limit) ? { limit: String(Math.max(0, Number(limit) - rows)) } : {};
  const place =
    after === undefined ? { offset: String(Number(offset) + rows) } : { offset: undefined, after };
  return { header: 'none', ...place, ...left };
}

/** Whether a file can go where it shall. @throws InputError */
async function expectPlace(
  format: FileFormat,
  path: string | undefined,
  { overwrite = false, resume = false }: ExportTo,
  { stdout }: Terminal,
): Promise<void> {
  if (resume && (path === undefined || !byRow.has(format))) {
    throw new InputError(
      '--resume goes on with a file of CSV or NDJSON: give --out with its name.',
    );
  }
  if (path === undefined) {
    if ((format !== 'xlsx' && format !== 'arrow') || stdout.isTTY !== true) return;
    throw new InputError(forFiles);
  }
  await expectFree(path, overwrite);
}

interface Writing {
  readonly format: FileFormat;
  readonly there: There;
  readonly put: Put;
  readonly terminal: Terminal;
}

/** Puts a file where it goes, as it comes; gives the number of its rows. @throws QuestionError, InputError */
async function written(
  response: Response,
  parameters: TypedParameters,
  { format, there, put, terminal: { stderr, stdout } }: Writing,
): Promise<number> {
  const records = new RecordEnds(format === 'csv' ? 'csv' : 'lines');
  const headers = headersOf(format, parameters.header);
  const rows = (): number => Math.max(0, records.count - headers);
  const known = response.headers.get('ephoros-rows') ?? response.headers.get('ephoros-rows-about');
  const of = known === null || !byRow.has(format) ? undefined : Number(known) + there.rows;
  const shows = of !== undefined && stderr.isTTY === true && stdout.isTTY !== true;
  const progress = shows ? progressOn({ stderr, stdout, environment: {} }) : undefined;
  try {
    for await (const piece of response.body ?? []) {
      await put.write(piece);
      records.take(piece);
      if (of !== undefined) progress?.step('rows', Math.min(rows() + there.rows, of), of);
    }
    return rows();
  } catch (thrown) {
    if (isOfFiles(thrown)) throw unwritable(thrown);
    const again = byRow.has(format) ? ' --resume goes on with it.' : '';
    const message = `The file was broken off after ${rows().toLocaleString('en')} rows.${again}`;
    throw new QueryError(new ServiceError('unavailable', message, { cause: thrown }), parameters);
  } finally {
    await put.close();
  }
}

/** Records of a file that are no rows. */
function headersOf(format: FileFormat, header: string | undefined): number {
  return format === 'csv' && header !== 'none' ? 1 : 0;
}

function formatOf(out: string | undefined): FileFormat {
  const ending = out === undefined ? '' : extname(out).slice(1).toLowerCase();
  const found = fileWords.format.find((one) => one === ending);
  if (found !== undefined) return found;
  throw new InputError(
    `Say in which format: --format ${fileWords.format.join(', ')}; or --out with such an ending.`,
  );
}

async function fetched(
  wanted: Requested,
  table: string,
  parameters: TypedParameters,
  body: Readonly<Record<string, string | boolean | undefined>>,
): Promise<Response> {
  const { url, headers } = addressed(wanted);
  const response = await fetch(`${url}/tables/${encodeURIComponent(table)}/export`, {
    method: 'POST',
    headers: { ...(headers as Requested['header']), 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  }).catch((cause: unknown) => {
    const error = new ServiceError('unavailable', `No service answers at ${wanted.url}.`, {
      cause,
    });
    throw new QueryError(error, parameters);
  });
  if (response.ok) return response;
  throw new QueryError(await ServiceError.from(response), parameters);
}

interface Put {
  readonly write: (piece: Uint8Array) => Promise<void>;
  readonly close: () => Promise<void>;
}

/** Standard output; on a terminal nothing of what comes moves the cursor. */
function screen({ stdout }: Terminal, format: FileFormat): Put {
  const isJson = format === 'json' || format === 'ndjson';
  const shown = stdout.isTTY === true ? plainPieces(isJson) : undefined;
  return {
    write: async (piece) => {
      const isTaken = stdout.write(shown === undefined ? piece : shown(piece));
      if (isTaken !== false || stdout.once === undefined) return;
      await new Promise<void>((resolve) => stdout.once?.('drain', () => resolve()));
    },
    close: () => {
      const rest = shown?.() ?? '';
      if (rest !== '') stdout.write(rest);
      return Promise.resolve();
    },
  };
}

/** A file behind so many bytes that are there already; never through a link. @throws InputError */
async function fileAt(path: string, bytes: number, replaces: boolean): Promise<Put> {
  try {
    if (bytes === 0 && replaces) await rm(path, { force: true });
    const file = await open(path, bytes === 0 ? 'wx' : constants.O_RDWR | constants.O_NOFOLLOW);
    if (bytes > 0) await file.truncate(bytes);
    let at = bytes;
    return {
      write: async (piece) => {
        for (let done = 0; done < piece.length;) {
          const { bytesWritten } = await file.write(piece, done, piece.length - done, at);
          done += bytesWritten;
          at += bytesWritten;
        }
      },
      close: () => file.close(),
    };
  } catch (thrown) {
    if ((thrown as { readonly code?: unknown }).code !== 'EEXIST') throw unwritable(thrown);
    throw new InputError(
      `There is a file ${plain(path)} already, perhaps of an export that was broken off: --resume goes on with it, --overwrite replaces it.`,
    );
  }
}

/** The rows of a file that are whole, and where the last of them ends. */
async function wholeRows(
  path: string,
  format: FileFormat,
  header: string | undefined,
): Promise<There> {
  if ((await sizeOf(path)) === undefined) return nothing;
  const records = new RecordEnds(format === 'csv' ? 'csv' : 'lines');
  let bytes = 0;
  let last = 0;
  let passed = 0;
  for await (const piece of createReadStream(path) as AsyncIterable<Buffer>) {
    for (const end of records.take(piece).slice(-2)) [last, bytes] = [bytes, passed + end + 1];
    passed += piece.length;
  }
  return { rows: Math.max(0, records.count - headersOf(format, header)), bytes, last };
}

function isOfFiles(thrown: unknown): boolean {
  const { syscall } = thrown as { readonly syscall?: unknown };
  return syscall === 'write' || syscall === 'open';
}
