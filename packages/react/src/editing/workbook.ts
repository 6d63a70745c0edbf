import type { WorkbookAnswer, WorkbookSheet } from './read-workbook.ts';

/** Ms that reading a workbook may take. */
const timeLimit = 60_000;

/** The cells of a workbook by sheets, read by a worker that ends with it. @throws Error */
export function sheetsOfWorkbook(file: Blob): Promise<readonly WorkbookSheet[]> {
  const worker = new Worker(new URL('./read-workbook.js', import.meta.url), { type: 'module' });
  return new Promise<readonly WorkbookSheet[]>((resolve, reject) => {
    const timer = setTimeout(
      () => reject(new Error('The workbook takes too long to read. Save the sheet as CSV.')),
      timeLimit,
    );
    worker.addEventListener('message', ({ data }: MessageEvent<WorkbookAnswer>) => {
      clearTimeout(timer);
      if ('sheets' in data) resolve(data.sheets);
      else reject(new Error(data.error));
    });
    worker.addEventListener('error', () => {
      clearTimeout(timer);
      reject(new Error('The file cannot be read as a workbook.'));
    });
    worker.postMessage(file);
  }).finally(() => worker.terminate());
}
