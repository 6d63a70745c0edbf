import type { Row, Value } from '@ephoros/client';
import { harmlessText } from '@ephoros/core/schema';
import { stringify } from 'csv-stringify/sync';
import type { Terminal } from '../terminal.ts';
import { lines, plainJson } from './plain.ts';

export interface CsvOptions {
  /** Leaves texts as they are that a spreadsheet would compute; by default a quote stands before. */
  readonly formulas?: boolean | undefined;
}

/**
 * Rows as CSV (RFC 4180) with a header line of column names. Null is an empty field, an empty
 * text is `""`; lists and JSON values stand as JSON. On a terminal nothing moves the cursor.
 */
export function csv(
  columns: readonly { readonly name: string }[],
  rows: readonly Row[],
  { stdout }: Terminal,
  { formulas = false }: CsvOptions = {},
): string {
  const harmless = (value: string): string => {
    const text = stdout.isTTY === true ? lines(value) : value;
    return formulas ? text : harmlessText(text);
  };
  const json = (text: string): string => {
    const shown = stdout.isTTY === true ? plainJson(text) : text;
    return formulas ? shown : harmlessText(shown);
  };
  const field = (value: Value): Value => (typeof value === 'string' ? harmless(value) : value);
  const records = rows.map((row) => columns.map(({ name }) => field(row[name] ?? null)));
  return stringify([...records], {
    header: true,
    columns: columns.map(({ name }) => harmless(name)),
    quoted_empty: false,
    quoted_match: /^$/,
    record_delimiter: 'windows',
    cast: { boolean: String, object: (value) => json(JSON.stringify(value)) },
  });
}
