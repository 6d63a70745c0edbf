import readWorkbook from 'read-excel-file/browser';

/** The cells of a workbook by sheets; a date and time as RFC 3339 writes them. */
export async function sheetsOfWorkbook(
  file: File,
): Promise<readonly { readonly sheet: string; readonly cells: readonly (readonly unknown[])[] }[]> {
  const sheets = await readWorkbook(file);
  return sheets.map(({ sheet, data }) => ({
    sheet,
    cells: data.map((cells) =>
      cells.map((cell) => (cell instanceof Date ? dayOrMoment(cell) : cell)),
    ),
  }));
}

/** Days of spreadsheets are midnights. */
function dayOrMoment(date: Date): string {
  const text = date.toISOString();
  return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.replace('.000Z', 'Z');
}
