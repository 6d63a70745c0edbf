import Papa from 'papaparse';

/** Rows as they were given: names of the columns, and values by name. */
export interface GivenRows {
  readonly names: readonly string[];
  readonly rows: readonly Readonly<Record<string, unknown>>[];
  /** What people read in the headers, where the data says so. */
  readonly labels?: Readonly<Record<string, string>>;
}

/** Data that cannot be read, with its place. */
export class DataError extends Error {
  constructor(message: string, cause?: unknown) {
    super(message, { cause });
    this.name = 'DataError';
  }
}

/** Rows of an array of objects; a column is what any of them has. */
export function rowsOfArray(rows: readonly object[]): GivenRows {
  const names = new Set<string>();
  for (const [index, row] of rows.entries()) {
    if (typeof row !== 'object' || (row as unknown) === null || Array.isArray(row)) {
      throw new DataError(`Row ${index + 1} is no object with a value for each column.`);
    }
    for (const name of Object.keys(row)) names.add(name);
  }
  return { names: [...names], rows: rows as readonly Readonly<Record<string, unknown>>[] };
}

/** Rows of a JSON text: a list of objects. @throws DataError */
export function rowsOfJson(text: string): GivenRows {
  const read = parsed(text, 'The JSON text');
  if (!Array.isArray(read)) throw new DataError('The JSON text is no list of rows.');
  return rowsOfArray(read as readonly object[]);
}

/** Rows of a text with a JSON object in each line (NDJSON); empty lines count for nothing. @throws DataError */
export function rowsOfNdjson(text: string): GivenRows {
  const lines = text.split(/\r?\n/);
  return rowsOfArray(
    lines.flatMap((line, index) =>
      line.trim() === '' ? [] : [parsed(line, `Line ${index + 1}`) as object],
    ),
  );
}

/**
 * Rows of a CSV text (RFC 4180) with a header line; commas, semicolons, tabs or bars between the
 * values. Empty values are null. @throws DataError
 */
export function rowsOfCsv(text: string, { delimiter = '' } = {}): GivenRows {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    delimiter,
    skipEmptyLines: true,
  });
  // That there is one column only is no mistake.
  const wrong = errors.find(({ code }) => code !== 'UndetectableDelimiter');
  if (wrong !== undefined) {
    throw new DataError(`Line ${(wrong.row ?? 0) + 1} of the CSV text: ${wrong.message}.`);
  }
  const [head = [], ...lines] = data;
  const names = head.map((name, index) =>
    name.trim() === '' ? `column_${index + 1}` : name.trim(),
  );
  const twice = names.find((name, index) => names.indexOf(name) !== index);
  if (twice !== undefined) throw new DataError(`The CSV text has two columns called ${twice}.`);
  for (const [index, line] of lines.entries()) {
    if (line.length > names.length) {
      throw new DataError(
        `Line ${index + 2} of the CSV text has ${line.length} values for ${names.length} columns.`,
      );
    }
  }
  return { names, rows: lines.map((line) => byName(names, line)) };
}

/** The part of an HTML table element that is read here. */
export interface HtmlTable {
  readonly tHead: { readonly rows: ArrayLike<HtmlRow> } | null;
  readonly tBodies: ArrayLike<{ readonly rows: ArrayLike<HtmlRow> }>;
}

interface HtmlRow {
  readonly cells: ArrayLike<HtmlCell>;
}

interface HtmlCell {
  readonly textContent: string | null;
  getAttribute(name: string): string | null;
}

/**
 * Rows of a table that is in the page already. Columns are called by `data-name` of their header
 * cells, else by the text there; a value is `data-value` of its cell, else the text. @throws DataError
 */
export function rowsOfHtml(table: HtmlTable): GivenRows {
  const head = table.tHead?.rows[0];
  if (head === undefined) {
    throw new DataError('The table has no thead with a row of headers to call its columns by.');
  }
  const labels = Array.from(head.cells, textOf);
  const names = Array.from(
    head.cells,
    (cell, index) => cell.getAttribute('data-name') ?? nameOf(labels[index] ?? '', index),
  );
  const lines = Array.from(table.tBodies).flatMap((body) =>
    Array.from(body.rows, (row) =>
      Array.from(row.cells, (cell) => cell.getAttribute('data-value') ?? textOf(cell)),
    ),
  );
  return {
    names,
    rows: lines.map((line) => byName(names, line)),
    labels: Object.fromEntries(names.map((name, index) => [name, labels[index] ?? name])),
  };
}

function textOf({ textContent }: HtmlCell): string {
  return (textContent ?? '').trim().replace(/\s+/g, ' ');
}

/** "Passed at" → `passed_at`. */
function nameOf(label: string, index: number): string {
  const name = label
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_+|_+$/g, '');
  return name === '' ? `column_${index + 1}` : name;
}

function byName(names: readonly string[], values: readonly string[]): Record<string, unknown> {
  return Object.fromEntries(
    names.map((name, index) => {
      const value = values[index] ?? '';
      return [name, value === '' ? null : value];
    }),
  );
}

function parsed(text: string, what: string): unknown {
  try {
    return JSON.parse(text);
  } catch (cause) {
    throw new DataError(`${what} is no JSON: ${(cause as Error).message}`, cause);
  }
}
