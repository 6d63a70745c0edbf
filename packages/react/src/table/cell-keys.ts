import type { KeyboardEvent } from 'react';
import type { TableColumn } from './column.ts';

/** The header, as a row of the grid. */
export const headerRow = -1;

/** What a key does to a cell of the header; true where it does anything. */
export function headerKey(
  event: KeyboardEvent,
  column: TableColumn | undefined,
  onSort: ((column: string, add: boolean) => void) | undefined,
): boolean {
  if (column === undefined) return false;
  if (event.key === 'Enter' && column.sortable === true && onSort !== undefined) {
    onSort(column.name, event.shiftKey);
    return true;
  }
  if (event.key === 'F2' || event.key === ' ' || event.key === 'Enter') return cellKey(event, true);
  return false;
}

/**
 * Enter and F2 go into what a cell holds: a link is followed, a button or a box pressed, a field
 * takes the keyboard; `any` other key does so, too. True where there is anything.
 */
export function cellKey({ key, currentTarget }: KeyboardEvent, any = false): boolean {
  if (!any && key !== 'Enter' && key !== 'F2') return false;
  const id = currentTarget.getAttribute('aria-activedescendant');
  const cell = id === null ? null : currentTarget.ownerDocument.getElementById(id);
  const inside = cell?.querySelector<HTMLElement>(
    'a[href], button:not(.eph-head-label, :disabled), input, select, textarea',
  );
  if (inside === null || inside === undefined) return false;
  if (inside.matches('a, button, [type=checkbox]')) inside.click();
  else inside.focus();
  return true;
}
