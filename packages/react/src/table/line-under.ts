/**
 * The line of a table that an element lies in, also one of the header; null where it lies in none, or
 * in that of another table that is folded out within.
 */
export function lineUnder(target: EventTarget, within: Element): HTMLElement | null {
  const line = (target as Element).closest<HTMLElement>('[data-position], [aria-rowindex]');
  const tableOf = (element: Element): Element | null => element.closest('.eph-small-table');
  return line !== null && tableOf(line) === tableOf(within) ? line : null;
}

/** The position of the row that an element lies in, from 0; negative for none. */
export function positionUnder(target: EventTarget, within: Element): number {
  const line = lineUnder(target, within);
  const own = line?.dataset.position;
  if (own !== undefined) return Number(own);
  // Counted from 1, behind the header.
  return Number(line?.getAttribute('aria-rowindex') ?? 0) - 2;
}

/** The name of the column that an element lies in; undefined for none. */
export function columnUnder(
  target: EventTarget,
  columns: readonly { readonly name: string }[],
): string | undefined {
  const cell = (target as Element).closest<HTMLElement>('[data-column], [aria-colindex]');
  if (cell === null) return undefined;
  return cell.dataset.column ?? columns[Number(cell.getAttribute('aria-colindex')) - 1]?.name;
}
