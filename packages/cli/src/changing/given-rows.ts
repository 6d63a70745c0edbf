import { InputError } from '../input-error.ts';
import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import type { Value } from '@ephoros/client';
import { JsonText } from '@ephoros/core/answer';
import { readJson, type JsonNode } from '@ephoros/core/expression';
import { isEmptyLine, lineCount } from '@ephoros/client/local';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import Papa from 'papaparse';

/** A row of a file, and the line that it begins at, from 1. */
export interface GivenRow {
  readonly line: number;
  readonly values: Readonly<Record<string, Value>>;
}

export type FileFormat = 'csv' | 'ndjson';

/** `column=value` of arguments, as values of a table; nothing behind the sign is no value. */
export function valuesOf(
  pairs: readonly string[],
  table: TableDescription,
): Readonly<Record<string, Value>> {
  const values: Record<string, Value> = {};
  for (const pair of pairs) {
    const sign = pair.indexOf('=');
    if (sign < 1) throw new InputError(`ephoros: ${pair} is no column=value.`);
    const name = pair.slice(0, sign);
    values[name] = valueOf(pair.slice(sign + 1), columnNamed(name, table));
  }
  return values;
}

function columnNamed(name: string, { columns }: TableDescription): ColumnDescription | undefined {
  return columns.find((column) => column.name === name);
}

/** A text as a value of its column: what the service takes as a text stays one. */
export function valueOf(text: string, column: ColumnDescription | undefined): Value {
  if (text === '') return null;
  const kind = column?.type.kind;
  if (kind !== 'json' && kind !== 'array') return text;
  try {
    readJson(text, mostLevels);
    // As it is written, with all digits.
    return JsonText.value(text.trim());
  } catch {
    return text;
  }
}

/** Levels of nesting of one value. */
const mostLevels = 300;

/** Which format a file is in: by its name, where nobody says so. */
export function formatOf(file: string, given: FileFormat | undefined): FileFormat {
  return given ?? (/\.(?:ndjson|jsonl)$/i.test(file) ? 'ndjson' : 'csv');
}

/**
 * The rows of a file, or of standard input for `-`, as they come: CSV with a header line, its columns
 * by their names or labels; or NDJSON. @throws InputError
 */
export async function* rowsIn(
  file: string,
  format: FileFormat,
  table: TableDescription,
): AsyncGenerator<GivenRow> {
  const stream = file === '-' ? process.stdin : createReadStream(file);
  try {
    yield* format === 'ndjson' ? jsonLines(stream, table) : csvLines(stream, table);
  } catch (thrown) {
    const { code } = thrown as { code?: string };
    if (code === 'ENOENT') throw new InputError(`ephoros: There is no file ${file}.`);
    throw thrown;
  }
}

async function* jsonLines(stream: Readable, table: TableDescription): AsyncGenerator<GivenRow> {
  let line = 0;
  for await (const text of createInterface({ input: stream, crlfDelay: Infinity })) {
    line += 1;
    if (text.trim() === '') continue;
    let node: JsonNode;
    try {
      node = readJson(text, mostLevels);
    } catch {
      throw new InputError(`ephoros: Line ${line} is no JSON.`);
    }
    if (node.kind !== 'object') throw new InputError(`ephoros: Line ${line} is no JSON object.`);
    const values = [...node.members].map(([name, member]): [string, Value] => [
      name,
      valueIn(member, text, columnNamed(name, table)),
    ]);
    yield { line, values: Object.fromEntries(values) };
  }
}

/** A value of a JSON text, with all digits of its numbers. */
function valueIn(node: JsonNode, text: string, column: ColumnDescription | undefined): Value {
  switch (node.kind) {
    case 'null':
      return null;
    case 'string':
    case 'boolean':
      return node.value;
    case 'number': {
      const kind = column?.type.kind;
      const isNumber = kind === 'integer' || kind === 'numeric' || kind === 'float';
      return isNumber ? node.value : JsonText.value(node.value);
    }
    case 'array':
    case 'object':
      return JsonText.value(text.slice(node.span.start, node.span.end));
    default:
      throw new Error(`no value of ${JSON.stringify(node satisfies never)}`);
  }
}

async function* csvLines(stream: Readable, table: TableDescription): AsyncGenerator<GivenRow> {
  // Empty lines are passed over here: they count as lines.
  const rows = Papa.parse(Papa.NODE_STREAM_INPUT);
  // Failures of a stream do not go through its pipe.
  stream.once('error', (thrown) => rows.destroy(thrown));
  stream.pipe(rows);
  let columns: readonly (ColumnDescription | undefined)[] | undefined;
  let names: readonly string[] = [];
  let next = 1;
  for await (const cells of rows as AsyncIterable<readonly string[]>) {
    const line = next;
    next += lineCount(cells);
    if (isEmptyLine(cells)) continue;
    if (columns === undefined) {
      names = cells.map((cell) => columnOf(cell.replace(/^\ufeff/, '').trim(), table));
      columns = names.map((name) => columnNamed(name, table));
      continue;
    }
    if (cells.length !== names.length) {
      const message = `${cells.length} cells, and the header has ${names.length}`;
      throw new InputError(`ephoros: Line ${line} has ${message}.`);
    }
    const known = columns;
    const values = names.map((name, index) => [name, valueOf(cells[index] ?? '', known[index])]);
    yield { line, values: Object.fromEntries(values) as Readonly<Record<string, Value>> };
  }
}

/** A column by its name, or by what people read in its header. */
function columnOf(text: string, { columns }: TableDescription): string {
  if (columns.some(({ name }) => name === text)) return text;
  const small = text.toLowerCase();
  const labelled = columns.filter(({ label }) => label.toLowerCase() === small);
  return labelled.length === 1 ? (labelled[0]?.name ?? text) : text;
}
