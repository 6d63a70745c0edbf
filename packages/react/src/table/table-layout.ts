import type { CSSProperties } from 'react';
import type { TableColumn } from './column.ts';

/** Placeholder rows while nothing is known of the total. */
const unknownRows = 20;

/** What the stylesheet has to know of the rows. */
export function rowVariables(rowHeight: number): CSSProperties {
  return { '--eph-row-height': `${rowHeight}px` } as CSSProperties;
}

/** Where the rows end. Those that nobody has counted are held out: a few, or the page. */
export function endOf(
  range: { readonly from: number; readonly to: number } | undefined,
  total: number | undefined,
  open: boolean,
): number {
  const { from, to } = range ?? { from: 0, to: Infinity };
  const reached = total !== undefined && total > from;
  if (total === undefined || (open && !reached)) return Math.min(to, from + unknownRows);
  return Math.min(to, open && range === undefined ? total + unknownRows : total);
}

/** Tracks of a CSS grid. Room that no column takes stays behind the last one. */
export function templateOf(columns: readonly TableColumn[]): string {
  return columns
    .map(({ width, grows = false, pinned = false }) =>
      grows && pinned === false ? `minmax(${width}px, 1fr)` : `${width}px`,
    )
    .join(' ');
}
