import { readSheet } from 'read-excel-file/browser';

/** The cells of a spreadsheet's first sheet; a date and time as RFC 3339 writes them. */
export async function sheetRows(file: File): Promise<readonly (readonly unknown[])[]> {
  const rows = await readSheet(file);
  return rows.map((cells) =>
    cells.map((cell) => (cell instanceof Date ? dayOrMoment(cell) : cell)),
  );
}

/** Days of spreadsheets are midnights. */
function dayOrMoment(date: Date): string {
  const text = date.toISOString();
  return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.replace('.000Z', 'Z');
}
