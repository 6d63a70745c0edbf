import { rowsOfCsv, rowsOfNdjson } from '@ephoros/client/local';

/** Rows of a sheet: the texts of its columns, and the line of each row, from 1. */
export interface FileRows {
  readonly names: readonly string[];
  readonly rows: readonly FileRow[];
}

export interface FileRow {
  readonly line: number;
  readonly cells: readonly unknown[];
}

/** A sheet of a workbook; a file of any other kind is one sheet without a name. */
export interface FileSheet extends FileRows {
  readonly sheet: string;
}

/** The sheets of a CSV, NDJSON or spreadsheet file, at least one. @throws Error */
export async function sheetsOfFile(file: File): Promise<readonly FileSheet[]> {
  if (/\.xlsx$/i.test(file.name)) {
    const { sheetsOfWorkbook } = await import('./workbook.ts');
    const sheets = await sheetsOfWorkbook(file);
    return sheets.map(({ sheet, cells }) => ({ sheet, ...byHeader(cells) }));
  }
  const text = await file.text();
  const isJson = /\.(?:ndjson|jsonl)$/i.test(file.name);
  const { names, rows, lines = [] } = isJson ? rowsOfNdjson(text) : rowsOfCsv(text);
  const read = rows.map((row, index) => ({
    line: lines[index] ?? 0,
    cells: names.map((name) => row[name] ?? null),
  }));
  return [{ sheet: '', names, rows: read }];
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
