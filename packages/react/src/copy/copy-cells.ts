import { fetchWhole, chosenQuery, type Row } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { FullReader } from '../format/value.ts';
import type { Drawn } from '../records/use-records.ts';
import { isOutline, rowAt } from '../table/row-at.ts';
import { copiedCells, type CopiedCells } from './copied-cells.ts';

/** Rows of a copy at most: what is longer is a matter of files. */
export const mostCopied = 10_000;

/** What is copied: rows by their positions, the last one among them, or those that are selected. */
export type CopiedRows =
  { readonly firstRow: number; readonly lastRow: number } | { readonly selected: true };

interface Copying {
  readonly records: Drawn;
  readonly columns: readonly ColumnDescription[];
  readonly reader: FullReader;
  readonly headers: boolean;
}

/** How many rows were copied, or why none were. */
export type Copied = { readonly rows: number } | 'too-many' | 'not-allowed' | Error;

/** Puts cells of rows on the clipboard; rows that were never loaded are requested. */
export async function copyCells(
  wanted: CopiedRows,
  { records, columns, reader, headers }: Copying,
): Promise<Copied> {
  try {
    const rows = await rowsOf(wanted, records, columns);
    if (rows === undefined) return 'too-many';
    const done = await putOnClipboard(copiedCells(rows, columns, reader, headers));
    return done ? { rows: rows.length } : 'not-allowed';
  } catch (thrown) {
    return thrown instanceof Error ? thrown : new Error(String(thrown));
  }
}

async function rowsOf(
  wanted: CopiedRows,
  { source, request, query, selection }: Drawn,
  columns: readonly ColumnDescription[],
): Promise<readonly Row[] | undefined> {
  const named = { columns: columns.map(({ name }) => ({ name, span: { start: 0, end: 0 } })) };
  if ('selected' in wanted) {
    if (request === undefined) return undefined;
    const { sort } = query;
    const chosen = chosenQuery(await request.queryable(selection.chosen));
    const place = { kind: 'offset', offset: 0 } as const;
    return pending(request, { ...chosen, ...(sort && { sort }), ...named, place }, mostCopied + 1);
  }
  const { firstRow, lastRow } = wanted;
  const positions = Array.from({ length: lastRow - firstRow + 1 }, (_, at) => firstRow + at);
  const loaded = positions
    .map((position) => rowAt(source, position))
    .filter((row) => row !== undefined);
  // Lines of groups are no rows.
  if (isOutline(source) || request === undefined || loaded.length === positions.length)
    return loaded;
  if (positions.length > mostCopied) return undefined;
  const place = { kind: 'offset', offset: firstRow } as const;
  return pending(request, { ...query, ...named, place }, positions.length);
}

async function pending(
  request: NonNullable<Drawn['request']>,
  query: Omit<Parameters<typeof fetchWhole<Row>>[1], 'limit'>,
  limit: number,
): Promise<readonly Row[] | undefined> {
  const { rows } = await fetchWhole<Row>(request.rows, { ...query, limit, total: 'none' });
  return rows.length > mostCopied ? undefined : rows;
}

/** False where the browser does not let a page do it. */
async function putOnClipboard({ text, html }: CopiedCells): Promise<boolean> {
  const blob = (data: string, type: string): Blob => new Blob([data], { type });
  try {
    const item = { 'text/plain': blob(text, 'text/plain'), 'text/html': blob(html, 'text/html') };
    await navigator.clipboard.write([new ClipboardItem(item)]);
    return true;
  } catch {
    // Pages that did not come over TLS have no clipboard but that of their own copying.
    return copiedByCommand({ text, html });
  }
}

function copiedByCommand({ text, html }: CopiedCells): boolean {
  const put = (event: ClipboardEvent): void => {
    event.preventDefault();
    event.clipboardData?.setData('text/plain', text);
    event.clipboardData?.setData('text/html', html);
  };
  document.addEventListener('copy', put);
  try {
    // eslint-disable-next-line @typescript-eslint/no-deprecated -- there is no other way without TLS
    return document.execCommand('copy');
  } finally {
    document.removeEventListener('copy', put);
  }
}
