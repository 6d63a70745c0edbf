/** What says how rows are written as a file, by parameter; but for the format the first word is the default. */
export const fileWords = {
  format: ['csv', 'ndjson', 'json', 'xlsx', 'arrow', 'md', 'html'],
  /** What the first line calls the columns, where the format has one. */
  header: ['names', 'labels', 'none'],
  /** What stands between the fields of CSV. */
  delimiter: ['comma', 'semicolon', 'tab', 'bar'],
  /** What stands for null in CSV: nothing, `NULL` or `\N`. */
  missing: ['empty', 'null', 'backslash-n'],
  /** Levels of groups: a column each, or lines of their own above those that lie in them, to be folded (XLSX). */
  levels: ['columns', 'folded'],
  /** What ends the lines of CSV (RFC 4180: CRLF). */
  'line-end': ['crlf', 'lf'],
} as const;

export type FileFormat = (typeof fileWords.format)[number];

/** How a file is written, as parameters say it; of what is left out the first word holds, or false. */
export type FileParameters = {
  readonly [Name in Exclude<keyof typeof fileWords, 'format'>]?: (typeof fileWords)[Name][number];
} & {
  readonly format: FileFormat;
  /** Whether CSV begins with a UTF-8 byte order mark. */
  readonly bom?: boolean;
  /** Whether CSV leaves texts as they are that a spreadsheet would compute. */
  readonly formulas?: boolean;
  /** Whether what coded values are called stands in place of them. */
  readonly 'value-labels'?: boolean;
  /** Under which it can be requested how far the file is: 8 to 64 letters, digits, `-` and `_` that nobody guesses. */
  readonly ticket?: string;
};
