import type { FileFormat, RowsFile } from '@ephoros/client/files';
import { RecordEnds } from '@ephoros/core/file';
import { saveFile } from '../copy/save-file.ts';

/** How far a file is. */
export interface ExportedFile {
  readonly bytes: number;
  /** Undefined of formats whose rows cannot be distinguished as they come. */
  readonly rows: number | undefined;
}

/** Bytes that are put together before the browser may move them out of memory. */
const pieceBytes = 8 * 2 ** 20;

/** Reads a file to its end and has the browser save it; one that is broken off is not saved. */
export async function saveExportFile(
  { name, mediaType, body }: RowsFile,
  format: FileFormat,
  headers: number,
  notify: (taken: ExportedFile) => void,
): Promise<ExportedFile> {
  const records =
    format === 'csv' || format === 'ndjson'
      ? new RecordEnds(format === 'csv' ? 'csv' : 'lines')
      : undefined;
  const whole: Blob[] = [];
  let pieces: Uint8Array<ArrayBuffer>[] = [];
  let waiting = 0;
  let bytes = 0;
  const now = (): ExportedFile => ({
    bytes,
    rows: records === undefined ? undefined : Math.max(0, records.count - headers),
  });
  const reader = body.getReader();
  for (let read = await reader.read(); !read.done; read = await reader.read()) {
    pieces.push(read.value);
    bytes += read.value.length;
    waiting += read.value.length;
    records?.take(read.value);
    if (waiting > pieceBytes) {
      whole.push(new Blob(pieces));
      pieces = [];
      waiting = 0;
    }
    notify(now());
  }
  saveFile(name, new Blob([...whole, ...pieces], { type: mediaType }));
  return now();
}

/** Bytes of a file that is not stored. */
export async function bytesOf({ body }: RowsFile): Promise<number> {
  let bytes = 0;
  const reader = body.getReader();
  for (let read = await reader.read(); !read.done; read = await reader.read()) {
    bytes += read.value.length;
  }
  return bytes;
}
