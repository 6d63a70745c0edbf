import { createReadStream } from 'node:fs';
import { open, rename, rm, stat, truncate } from 'node:fs/promises';
import { extname } from 'node:path';
import { ServiceError } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import { InputError } from './input-error.ts';
import { plain } from './output/plain.ts';
import { progressOn } from './output/progress.ts';
import { RecordCounter } from './record-counter.ts';
import { addressed, QuestionError, type Asked, type TypedParameters } from './request.ts';
import type { Terminal } from './terminal.ts';

/** Where a file goes. */
export interface ExportTo {
  readonly format?: string | undefined;
  readonly out?: string | undefined;
  readonly overwrite?: boolean | undefined;
  readonly resume?: boolean | undefined;
}

/** Formats whose rows can be told apart as they come. */
const byRow = new Set(['csv', 'ndjson']);
const formats = ['csv', 'ndjson', 'json', 'xlsx'];

/** What is there already of a file that was broken off. */
interface There {
  readonly rows: number;
  readonly bytes: number;
}

const nothing: There = { rows: 0, bytes: 0 };

/**
 * Has all rows of a question written into a file. As long as it is not whole it is called otherwise.
 * @throws InputError, QuestionError
 */
export async function exportFile(
  asked: Asked,
  table: string,
  parameters: TypedParameters,
  to: ExportTo,
  terminal: Terminal,
): Promise<void> {
  const { out, resume = false } = to;
  const format = to.format ?? formatOf(out);
  const path = out === '-' ? undefined : out;
  await expectPlace(format, path, to, terminal);
  if (path === undefined) {
    await written(asked, table, { ...parameters, format }, nothing, screen(terminal), terminal);
    return;
  }
  const part = `${path}.part`;
  const there = resume ? await wholeRows(part, format, parameters.header) : nothing;
  const { offset = '0', limit, header, bom } = parameters;
  const left = limit === undefined ? undefined : Number(limit) - there.rows;
  let { rows } = there;
  // Of a limit that is reached nothing is left to be asked for.
  if (left === undefined || left > 0 || there.bytes === 0) {
    const further: TypedParameters = {
      ...{ ...parameters, format },
      offset: there.rows === 0 ? parameters.offset : String(Number(offset) + there.rows),
      limit: left === undefined ? undefined : String(left),
      header: there.bytes === 0 ? header : 'none',
      bom: there.bytes === 0 ? bom : undefined,
    };
    const file = await fileAt(part, there.bytes);
    rows += await written(asked, table, further, there, file, terminal);
  }
  await rename(part, path);
  const told = byRow.has(format) ? `${rows.toLocaleString('en')} rows in ` : '';
  terminal.stderr.write(`${told}${plain(path)}\n`);
}

/** Whether a file can go where it shall. @throws InputError */
async function expectPlace(
  format: string,
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
    if (format !== 'xlsx' || stdout.isTTY !== true) return;
    throw new InputError('A workbook is nothing for a terminal: give --out with a file.');
  }
  if (overwrite || (await sizeOf(path)) === undefined) return;
  throw new InputError(
    `There is a file ${plain(path)} already: give --overwrite, or another name.`,
  );
}

/** Asks for a file, and puts it where it goes; gives the number of its rows. @throws QuestionError, InputError */
async function written(
  asked: Asked,
  table: string,
  parameters: TypedParameters,
  there: There,
  put: Put,
  { stderr, stdout }: Terminal,
): Promise<number> {
  const { format = '' } = parameters;
  const counter = new RecordCounter(format, parameters.header);
  try {
    const response = await fetched(asked, table, parameters);
    const { headers } = response;
    const known = headers.get('ephoros-rows') ?? headers.get('ephoros-rows-about');
    const of = known === null || !byRow.has(format) ? undefined : Number(known) + there.rows;
    const shows = of !== undefined && stderr.isTTY === true && stdout.isTTY !== true;
    const progress = shows ? progressOn({ stderr, stdout, environment: {} }) : undefined;
    for await (const piece of response.body ?? []) {
      await put.write(piece as Uint8Array);
      counter.take(piece as Uint8Array);
      if (of !== undefined) progress?.step('rows', Math.min(counter.rows + there.rows, of), of);
    }
    return counter.rows;
  } catch (thrown) {
    if (thrown instanceof QuestionError) throw thrown;
    if (isOfFiles(thrown)) throw unwritable(thrown);
    const rows = counter.rows.toLocaleString('en');
    const again = byRow.has(format) ? ' --resume goes on with it.' : '';
    const message = `The file was broken off after ${rows} rows.${again}`;
    throw new QuestionError(new ServiceError('away', message, { cause: thrown }), parameters);
  } finally {
    await put.close();
  }
}

function formatOf(out: string | undefined): string {
  const ending = out === undefined ? '' : extname(out).slice(1).toLowerCase();
  if (formats.includes(ending)) return ending;
  throw new InputError(
    `Say in which format: --format ${formats.join(', ')}; or --out with such an ending.`,
  );
}

async function fetched(
  asked: Asked,
  table: string,
  parameters: TypedParameters,
): Promise<Response> {
  const { url, headers } = addressed(asked);
  const given = Object.fromEntries(
    Object.entries(parameters).filter(([, text]) => text !== undefined),
  );
  let response: Response;
  try {
    response = await fetch(`${url}/tables/${encodeURIComponent(table)}/export`, {
      method: 'POST',
      headers: { ...(headers as Asked['header']), 'Content-Type': 'application/json' },
      body: JSON.stringify(given),
    });
  } catch (thrown) {
    throw new QuestionError(
      new ServiceError('away', `No service answers at ${asked.url}.`, { cause: thrown }),
      parameters,
    );
  }
  if (response.ok) return response;
  const { detail, errors } = (await response.json().catch(() => ({}))) as {
    readonly detail?: string;
    readonly errors?: readonly Problem[];
  };
  const { status } = response;
  const kind = status < 500 ? 'refused' : status === 503 || status === 504 ? 'away' : 'failed';
  throw new QuestionError(
    new ServiceError(kind, detail ?? `The service answered ${status}.`, {
      status,
      ...(errors === undefined ? {} : { problems: errors }),
    }),
    parameters,
  );
}

interface Put {
  readonly write: (piece: Uint8Array) => Promise<void>;
  readonly close: () => Promise<void>;
}

function screen({ stdout }: Terminal): Put {
  return {
    write: async (piece) => {
      if (stdout.write(piece) !== false || stdout.once === undefined) return;
      await new Promise<void>((resolve) => stdout.once?.('drain', () => resolve()));
    },
    close: () => Promise.resolve(),
  };
}

async function fileAt(path: string, bytes: number): Promise<Put> {
  try {
    if (bytes > 0) await truncate(path, bytes);
    else await rm(path, { force: true });
    const file = await open(path, 'a');
    return {
      write: async (piece) => {
        await file.appendFile(piece);
      },
      close: () => file.close(),
    };
  } catch (thrown) {
    throw unwritable(thrown);
  }
}

function unwritable(thrown: unknown): InputError {
  return new InputError(`The file cannot be written: ${plain((thrown as Error).message)}`);
}

async function sizeOf(path: string): Promise<number | undefined> {
  return (await stat(path).catch(() => undefined))?.size;
}

/** The rows of a file that are whole, and where the last of them ends. */
async function wholeRows(path: string, format: string, header: string | undefined): Promise<There> {
  if ((await sizeOf(path)) === undefined) return nothing;
  const counter = new RecordCounter(format, header);
  for await (const piece of createReadStream(path)) counter.take(piece as Uint8Array);
  return { rows: counter.rows, bytes: counter.whole };
}

function isOfFiles(thrown: unknown): boolean {
  const { syscall } = thrown as { readonly syscall?: unknown };
  return syscall === 'write' || syscall === 'open';
}
