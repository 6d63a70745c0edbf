import { open } from 'node:fs/promises';
import type { FileFormat } from '@ephoros/core/file';
import { parseNames } from '@ephoros/core/query';
import { keyParts, printKey, type TableDescription } from '@ephoros/core/schema';
import Papa from 'papaparse';
import { clientFor } from './commands/options.ts';
import type { Requested, TypedParameters } from './request.ts';

interface Broken {
  readonly wanted: Requested;
  readonly table: string;
  readonly parameters: TypedParameters;
  readonly to: { readonly format: FileFormat; readonly valueLabels?: boolean | undefined };
  /** Where its last whole row lies, in bytes. */
  readonly there: { readonly last: number; readonly bytes: number };
}

/**
 * The cursor behind the last whole row of a file, by the key that stands in it: whatever others add or remove
 * meanwhile, the rest begins there. Undefined where the file has no key, so that its rows must be counted.
 */
export async function lastKey(
  path: string,
  { wanted, table, parameters, to, there }: Broken,
): Promise<string | undefined> {
  if (parameters.group !== undefined || parameters.aggregate !== undefined) return undefined;
  const described = await clientFor(wanted).describe(table);
  const { key } = described;
  const places = placesOf(parameters.columns, described);
  const coded = described.columns.some(
    ({ name, valueLabels }) => key.includes(name) && valueLabels !== undefined,
  );
  const hasKey = key.length > 0 && key.every((name) => places.includes(name));
  if (!hasKey || (coded && to.valueLabels === true)) return undefined;
  const text = await textAt(path, there.last, there.bytes);
  const row = to.format === 'csv' ? ofCsv(text, places, parameters.delimiter) : ofJson(text);
  return row === undefined ? undefined : `key:${printKey(keyParts(row, key))}`;
}

/** The columns of the file, in their order. */
function placesOf(columns: string | undefined, table: TableDescription): readonly string[] {
  if (columns !== undefined) return parseNames(columns).names.map(({ name }) => name);
  return table.columns.filter(({ shown }) => shown).map(({ name }) => name);
}

const delimiters: Readonly<Record<string, string>> = { semicolon: ';', tab: '\t', bar: '|' };

function ofCsv(
  text: string,
  columns: readonly string[],
  delimiter = 'comma',
): Readonly<Record<string, unknown>> | undefined {
  const { data } = Papa.parse<string[]>(text.trimEnd(), {
    delimiter: delimiters[delimiter] ?? ',',
  });
  const [fields = []] = data;
  if (fields.length !== columns.length) return undefined;
  return Object.fromEntries(columns.map((name, at) => [name, fields[at]]));
}

function ofJson(text: string): Readonly<Record<string, unknown>> | undefined {
  try {
    return JSON.parse(text) as Record<string, unknown>;
  } catch {
    return undefined;
  }
}

async function textAt(path: string, start: number, end: number): Promise<string> {
  const file = await open(path);
  try {
    const { buffer } = await file.read(Buffer.alloc(end - start), 0, end - start, start);
    return buffer.toString('utf8');
  } finally {
    await file.close();
  }
}
