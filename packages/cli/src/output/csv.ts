import type { Row } from '@ephoros/client';
import { stringify } from 'csv-stringify/sync';

/**
 * Rows as CSV (RFC 4180) with a header line of column names. Null is an empty field, an empty
 * text is `""`; lists and JSON values stand as JSON.
 */
export function csv(columns: readonly { readonly name: string }[], rows: readonly Row[]): string {
  const records = rows.map((row) => columns.map(({ name }) => row[name] ?? null));
  return stringify([...records], {
    header: true,
    columns: columns.map(({ name }) => name),
    quoted_empty: false,
    quoted_match: /^$/,
    record_delimiter: 'windows',
    cast: { boolean: String, object: (value) => JSON.stringify(value) },
  });
}
