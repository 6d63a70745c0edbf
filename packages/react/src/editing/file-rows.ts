import { rowsOfCsv, rowsOfNdjson } from '@ephoros/client/local';

/** Rows of a file: the texts of its columns, and the line of each row, from 1. */
export interface FileRows {
  readonly names: readonly string[];
  readonly rows: readonly FileRow[];
}

export interface FileRow {
  readonly line: number;
  readonly cells: readonly unknown[];
}

/** The rows of a CSV, NDJSON or spreadsheet file; of the latter those of its first sheet. @throws Error */
export async function rowsOfFile(file: File): Promise<FileRows> {
  if (/\.xlsx$/i.test(file.name)) {
    const { sheetRows } = await import('./spreadsheet.ts');
    return byHeader(await sheetRows(file));
  }
  const text = await file.text();
  const isJson = /\.(?:ndjson|jsonl)$/i.test(file.name);
  const { names, rows, lines = [] } = isJson ? rowsOfNdjson(text) : rowsOfCsv(text);
  return {
    names,
    rows: rows.map((row, index) => ({
      line: lines[index] ?? 0,
      cells: names.map((name) => row[name] ?? null),
    })),
  };
}

/** Cells below a header. */
function byHeader([head = [], ...lines]: readonly (readonly unknown[])[]): FileRows {
  const names = head.map((cell, index) =>
    typeof cell === 'string' || typeof cell === 'number' ? String(cell) : `column ${index + 1}`,
  );
  const rows = lines.flatMap((cells, index): FileRow[] =>
    cells.every((cell) => cell === null) ? [] : [{ line: index + 2, cells }],
  );
  return { names, rows };
}
