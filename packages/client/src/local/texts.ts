import Papa from 'papaparse';

/** Rows as they were given: names of the columns, and values by name. */
export interface GivenRows {
  readonly names: readonly string[];
  readonly rows: readonly Readonly<Record<string, unknown>>[];
  /** The line of the text that each row begins at, from 1, where they are of a text of lines. */
  readonly lines?: readonly number[];
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
  const lines = text
    .split(/\r?\n/)
    .flatMap((line, index) => (line.trim() === '' ? [] : [[index + 1, line] as const]));
  const rows = lines.map(([number, line]) => parsed(line, `Line ${number}`) as object);
  return { ...rowsOfArray(rows), lines: lines.map(([number]) => number) };
}

/**
 * Rows of a CSV text (RFC 4180) with a header line; commas, semicolons, tabs or bars between the
 * values. Empty values are null. @throws DataError
 */
export function rowsOfCsv(text: string, { delimiter = '' } = {}): GivenRows {
  const plain = text.replace(/^\uFEFF/, '');
  // Guessed without the empty lines, which are read all the same: they count as lines.
  const guess = { delimiter, skipEmptyLines: true, preview: 100 };
  const { meta } = Papa.parse<string[]>(plain, guess);
  const { data, errors } = Papa.parse<string[]>(plain, { delimiter: meta.delimiter });
  const places = linesOf(data);
  // That there is one column only is no error.
  const wrong = errors.find(({ code }) => code !== 'UndetectableDelimiter');
  if (wrong !== undefined) {
    throw new DataError(`Line ${places[wrong.row ?? 0] ?? 1} of the CSV text: ${wrong.message}.`);
  }
  const filled = data.flatMap((cells, index) =>
    isEmptyLine(cells) ? [] : [{ cells, line: places[index] ?? 0 }],
  );
  const [{ cells: head } = { cells: [] }, ...lines] = filled;
  const names = head.map((name, index) =>
    name.trim() === '' ? `column_${index + 1}` : name.trim(),
  );
  const twice = names.find((name, index) => names.indexOf(name) !== index);
  if (twice !== undefined) throw new DataError(`The CSV text has two columns called ${twice}.`);
  for (const { cells, line } of lines) {
    if (cells.length > names.length) {
      throw new DataError(
        `Line ${line} of the CSV text has ${cells.length} values for ${names.length} columns.`,
      );
    }
  }
  return {
    names,
    rows: lines.map(({ cells }) => byName(names, cells)),
    lines: lines.map(({ line }) => line),
  };
}

/** Whether a line of a CSV text has nothing in it. */
export function isEmptyLine(cells: readonly string[]): boolean {
  return cells.length === 1 && cells[0] === '';
}

/** How many lines of a CSV text a row takes: cells in quotes may have several. */
export function lineCount(cells: readonly string[]): number {
  return cells.reduce((sum, cell) => sum + (cell.match(/\r\n|\n|\r/g)?.length ?? 0), 1);
}

/** The line that each row of a CSV text begins at, empty lines among them. */
function linesOf(rows: readonly (readonly string[])[]): readonly number[] {
  let line = 1;
  return rows.map((cells) => {
    const own = line;
    line += lineCount(cells);
    return own;
  });
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
