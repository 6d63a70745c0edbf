/** Bytes of a workbook, and of all that is in it once it is unpacked. */
const mostBytes = 50 * 1024 * 1024;
const mostUnpacked = 300 * 1024 * 1024;
/** Files in a workbook; columns of a sheet; cells of the rectangle that a sheet spans. */
const mostFiles = 5_000;
const mostColumns = 2_000;
const mostCells = 20_000_000;

/** A workbook that is too large to be read, or none. */
export class WorkbookError extends Error {
  override readonly name = 'WorkbookError';
}

/** A file in a zip archive, as its directory has it. */
interface PackedFile {
  readonly name: string;
  readonly isDeflated: boolean;
  readonly packed: number;
  readonly unpacked: number;
  /** Where its local header begins. */
  readonly at: number;
}

/**
 * Looks at a workbook before anything reads it: its size, the sizes that it declares, what its sheets unpack to in
 * truth, and where their cells lie. One stray cell in the last corner would have the whole rectangle be made.
 * @throws WorkbookError
 */
export async function checkWorkbook(file: Blob): Promise<void> {
  if (file.size > mostBytes)
    throw new WorkbookError(tooLarge(file.size, mostBytes, 'The workbook'));
  const bytes = new Uint8Array(await file.arrayBuffer());
  const files = directoryOf(bytes);
  const declared = files.reduce((sum, { unpacked }) => sum + unpacked, 0);
  if (declared > mostUnpacked) {
    throw new WorkbookError(tooLarge(declared, mostUnpacked, 'The workbook unpacked'));
  }
  let left = mostUnpacked;
  for (const one of files) {
    const isSheet = /^xl\/worksheets\/[^/]+\.xml$/.test(one.name);
    const extent = new Extent();
    for await (const text of textsOf(one, bytes)) {
      left -= text.length;
      if (left < 0) {
        throw new WorkbookError(tooLarge(mostUnpacked + 1, mostUnpacked, 'The workbook unpacked'));
      }
      if (isSheet) extent.take(text);
    }
  }
}

/** The rectangle that the cells of a sheet span, by their references. */
class Extent {
  private rows = 0;
  private columns = 0;
  /** What a piece ended with: a reference may stand in two. */
  private rest = '';

  /** @throws WorkbookError */
  take(text: string): void {
    const all = this.rest + text;
    for (const [, letters = '', digits = ''] of all.matchAll(/\br="([A-Z]{1,3})(\d{1,7})"/g)) {
      const column = [...letters].reduce((sum, one) => sum * 26 + one.charCodeAt(0) - 64, 0);
      this.columns = Math.max(this.columns, column);
      this.rows = Math.max(this.rows, Number(digits));
      if (this.columns > mostColumns || this.columns * this.rows > mostCells) {
        throw new WorkbookError(
          `A sheet has a cell at ${letters}${digits}. Sheets of up to ${mostColumns.toLocaleString('en')} columns and ${mostCells.toLocaleString('en')} cells are read; delete what lies outside of the rows.`,
        );
      }
    }
    this.rest = all.slice(-16);
  }
}

/** The files of a zip archive, by its central directory (APPNOTE 4.3.12). @throws WorkbookError */
function directoryOf(bytes: Uint8Array): readonly PackedFile[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const broken = new WorkbookError('The file is no workbook: its directory cannot be read.');
  // The record at the end, before a comment of 64 KB at most.
  let end = bytes.length - 22;
  while (end >= 0 && end >= bytes.length - 22 - 65_535 && view.getUint32(end, true) !== 0x06054b50)
    end -= 1;
  if (end < 0 || view.getUint32(end, true) !== 0x06054b50) throw broken;
  const count = view.getUint16(end + 10, true);
  if (count > mostFiles) throw new WorkbookError('The workbook has too many parts.');
  const files: PackedFile[] = [];
  let at = view.getUint32(end + 16, true);
  for (let index = 0; index < count; index += 1) {
    if (at + 46 > bytes.length || view.getUint32(at, true) !== 0x02014b50) throw broken;
    const [nameLength, extra, comment] = [28, 30, 32].map((place) =>
      view.getUint16(at + place, true),
    );
    const name = new TextDecoder().decode(bytes.subarray(at + 46, at + 46 + (nameLength ?? 0)));
    files.push({
      name,
      isDeflated: view.getUint16(at + 10, true) === 8,
      packed: view.getUint32(at + 20, true),
      unpacked: view.getUint32(at + 24, true),
      at: view.getUint32(at + 42, true),
    });
    at += 46 + (nameLength ?? 0) + (extra ?? 0) + (comment ?? 0);
  }
  return files;
}

/** The text of a packed file, piece by piece: what it declares of its size may be wrong. @throws WorkbookError */
async function* textsOf(
  { isDeflated, packed, at }: PackedFile,
  bytes: Uint8Array<ArrayBuffer>,
): AsyncGenerator<string> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (at + 30 > bytes.length)
    throw new WorkbookError('The file is no workbook: a part is missing.');
  const begins = at + 30 + view.getUint16(at + 26, true) + view.getUint16(at + 28, true);
  const part = bytes.subarray(begins, begins + packed);
  const decoder = new TextDecoder();
  if (!isDeflated) {
    yield decoder.decode(part);
    return;
  }
  const reader = new Blob([part])
    .stream()
    .pipeThrough(new DecompressionStream('deflate-raw'))
    .getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield decoder.decode(value, { stream: true });
    }
  } catch (thrown) {
    if (thrown instanceof WorkbookError) throw thrown;
    throw new WorkbookError('The file is no workbook: a part of it cannot be unpacked.');
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}

function tooLarge(bytes: number, most: number, what: string): string {
  const megabytes = (size: number): string =>
    `${Math.ceil(size / 1024 / 1024).toLocaleString('en')} MB`;
  return `${what} has ${megabytes(bytes)}; ${megabytes(most)} are the most. Save the sheet as CSV, which is read as it comes.`;
}
