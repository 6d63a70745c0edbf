import readWorkbook from 'read-excel-file/web-worker';
import { checkWorkbook, WorkbookError } from './check-workbook.ts';

/** The cells of a sheet, by rows. */
export interface WorkbookSheet {
  readonly sheet: string;
  readonly cells: readonly (readonly unknown[])[];
}

/** What the worker answers. */
export type WorkbookAnswer =
  { readonly sheets: readonly WorkbookSheet[] } | { readonly error: string };

/** Reads a workbook in a worker of its own, so that the page goes on meanwhile; a date as RFC 3339 writes it. */
self.addEventListener('message', ({ data }: MessageEvent<Blob>) => {
  sheetsOf(data).then(
    (sheets) => self.postMessage({ sheets } satisfies WorkbookAnswer),
    (thrown: unknown) => {
      const error =
        thrown instanceof WorkbookError ? thrown.message : 'The file cannot be read as a workbook.';
      self.postMessage({ error } satisfies WorkbookAnswer);
    },
  );
});

async function sheetsOf(file: Blob): Promise<readonly WorkbookSheet[]> {
  await checkWorkbook(file);
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
