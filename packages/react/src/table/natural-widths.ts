import type { TableColumn } from './column.ts';

/** What is as large as it is, however wide its cell. */
const parts = 'img, svg, canvas, video, meter, progress, input, button';

/** Px at either side of what stands in a cell, where its style says nothing. */
const usualPadding = 12;

/** Px: a very long text shall not push all else out of view. */
const widestFitted = 640;

/**
 * How wide each column needs to be for what of it stands in the page, by its name, in px: the label
 * with what is behind it, and the widest of its cells; within what the column allows.
 */
export function naturalWidths(
  grid: HTMLElement,
  columns: readonly TableColumn[],
  /** A width as a column allows it. */
  within: (width: number, column: TableColumn) => number,
): Readonly<Record<string, number>> {
  const widths = measured(grid);
  return Object.fromEntries(
    columns.flatMap((column, place) => {
      const width = widths.get(place);
      if (width === undefined) return [];
      const most = column.maxWidth ?? widestFitted;
      return [[column.name, within(Math.min(width, most), column)]];
    }),
  );
}

/** By the place of the column, from 0. */
function measured(grid: HTMLElement): ReadonlyMap<number, number> {
  const widths = new Map<number, number>();
  for (const cell of grid.querySelectorAll<HTMLElement>('.eph-head-cell, .eph-cell')) {
    const place = Number(cell.getAttribute('aria-colindex')) - 1;
    // A line instead of cells belongs to no column.
    if (place < 0) continue;
    const inside = cell.classList.contains('eph-head-cell') ? headWidth(cell) : contentWidth(cell);
    const width = Math.ceil(inside + paddingOf(cell));
    widths.set(place, Math.max(widths.get(place) ?? 0, width));
  }
  return widths;
}

/** Texts are measured whole, also where they are cut off. */
function contentWidth(element: Element): number {
  const boxes: DOMRect[] = [...element.querySelectorAll(parts)].map((part) =>
    part.getBoundingClientRect(),
  );
  const walker = document.createTreeWalker(element, NodeFilter.SHOW_TEXT);
  for (let text = walker.nextNode(); text !== null; text = walker.nextNode()) {
    const range = document.createRange();
    range.selectNodeContents(text);
    boxes.push(range.getBoundingClientRect());
  }
  const there = boxes.filter(({ width }) => width > 0);
  if (there.length === 0) return 0;
  return Math.max(...there.map(({ right }) => right)) - Math.min(...there.map(({ left }) => left));
}

/** What stands side by side in a header cell. */
function headWidth(cell: HTMLElement): number {
  const gap = parseFloat(getComputedStyle(cell).columnGap) || 0;
  const children = [...cell.children].filter((child) => !child.classList.contains('eph-grip'));
  const widths = children.map((child) =>
    child.classList.contains('eph-head-label') ? labelWidth(child) : contentOf(child),
  );
  return widths.reduce((sum, width) => sum + width, 0) + gap * Math.max(0, widths.length - 1);
}

function labelWidth(label: Element): number {
  const gap = parseFloat(getComputedStyle(label).columnGap) || 0;
  // A label that is no button is its text alone.
  if (label.children.length === 0) return contentWidth(label);
  const widths = [...label.children].map(contentWidth);
  return widths.reduce((sum, width) => sum + width, 0) + gap * (widths.length - 1);
}

function contentOf(child: Element): number {
  return child.getBoundingClientRect().width;
}

function paddingOf(cell: HTMLElement): number {
  const { paddingInlineStart, paddingInlineEnd } = getComputedStyle(cell);
  const [start, end] = [parseFloat(paddingInlineStart), parseFloat(paddingInlineEnd)];
  // A px more, so that what just fits is not cut off.
  return (
    (Number.isNaN(start) ? usualPadding : start) + (Number.isNaN(end) ? usualPadding : end) + 1
  );
}
