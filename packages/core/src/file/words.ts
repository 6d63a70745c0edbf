/** What says how rows are written as a file, by parameter; but for the format the first word is the default. */
export const fileWords = {
  format: ['csv', 'ndjson', 'json', 'xlsx'],
  /** What the first line of CSV and XLSX calls the columns. */
  header: ['names', 'labels', 'none'],
  /** What stands between the fields of CSV. */
  delimiter: ['comma', 'semicolon', 'tab', 'bar'],
  /** What stands for null in CSV: nothing, `NULL` or `\N`. */
  missing: ['empty', 'null', 'backslash-n'],
  /** What ends the lines of CSV (RFC 4180: CRLF). */
  'line-end': ['crlf', 'lf'],
} as const;

export type FileFormat = (typeof fileWords.format)[number];
