import type { OutlineSource, Row, RowSource } from '@ephoros/client';
import type { KeyboardEvent } from 'react';
import { cellKey, headerKey, headerRow } from './cell-keys.ts';
import type { TableColumn } from './column.ts';
import { moved, type ActiveCell } from './movement.ts';
import { isOutline, rowAt } from './row-at.ts';
import { outlineKey } from './use-outline.ts';

/** Where a key was pressed: on which column, and on which row, counted from 0. */
export interface RowPlace {
  readonly column: string;
  readonly position: number;
}

/** A grid that has the keyboard. */
export interface KeyedGrid {
  readonly source: RowSource | OutlineSource;
  readonly columns: readonly TableColumn[];
  /** The active cell; its row is counted from the first one of the page. */
  readonly active: ActiveCell | undefined;
  readonly setActive: (place: ActiveCell) => void;
  /** The first row of the page. */
  readonly offset: number;
  readonly rowCount: number;
  readonly firstVisible: number;
  /** Rows that a page key moves by. */
  readonly pageRows: number;
  /** Whether columns run from right to left. */
  readonly mirrored: boolean;
  readonly onSort: ((column: string, add: boolean) => void) | undefined;
  readonly onRowKey:
    ((key: string, row: Row, event: KeyboardEvent, at: RowPlace) => boolean) | undefined;
  /** Opens or closes the group at a position. */
  readonly toggle: (position: number) => void;
  /** Scrolls to a row, below so many rows that stay in view. */
  readonly reveal: (row: number, below: number) => void;
}

/** What a key does in a grid: to a header, a row, a cell, a group; else it moves the active cell. */
export function gridKey(event: KeyboardEvent, grid: KeyedGrid): void {
  if (keyOfHeader(event, grid) || keyOfRow(event, grid) || keyOfGroup(event, grid)) {
    event.preventDefault();
    return;
  }
  const { columns, active, rowCount, firstVisible, pageRows, mirrored } = grid;
  const whole = event.ctrlKey || event.metaKey;
  const up = event.key === 'ArrowUp' && !whole;
  // In an outline one begins at the groups themselves.
  const start = Math.max(
    0,
    columns.findIndex(({ outline }) => outline === true),
  );
  const to = moved(active ?? { row: firstVisible, column: start }, event.key, whole, {
    // The header is come to from the first row alone, and walked from there.
    firstRow: active !== undefined && (up || active.row === headerRow) ? headerRow : 0,
    lastRow: rowCount - 1,
    lastColumn: columns.length - 1,
    pageRows,
    mirrored,
  });
  if (to === undefined || (rowCount === 0 && to.row !== headerRow)) return;
  event.preventDefault();
  // The first arrow shows where one is.
  const begins = active === undefined && event.key.startsWith('Arrow');
  const place = begins ? { row: firstVisible, column: start } : to;
  // With Shift the cells on the way are marked; the header is none of them.
  const marks = event.shiftKey && active !== undefined && active.row !== headerRow;
  if (marks && place.row === headerRow) return;
  goTo(marks ? { ...place, anchor: active.anchor ?? active } : place, grid);
}

function goTo(place: ActiveCell, { source, setActive, reveal }: KeyedGrid): void {
  setActive(place);
  if (place.row === headerRow) return;
  // A line shall not lie below the lines of its groups that stay in view.
  reveal(place.row, isOutline(source) ? source.pathAt(place.row).length - 1 : 0);
}

function keyOfHeader(event: KeyboardEvent, { active, columns, onSort }: KeyedGrid): boolean {
  return active?.row === headerRow && headerKey(event, columns[active.column], onSort);
}

function keyOfRow(
  event: KeyboardEvent,
  { active, source, offset, columns, onRowKey }: KeyedGrid,
): boolean {
  if (active === undefined || active.row === headerRow) return false;
  const row = rowAt(source, offset + active.row);
  if (row === undefined) return false;
  const { name = '' } = columns[active.column] ?? {};
  const at = { column: name, position: offset + active.row };
  return onRowKey?.(event.key, row, event, at) === true || cellKey(event);
}

function keyOfGroup(event: KeyboardEvent, grid: KeyedGrid): boolean {
  const { active, source, columns, toggle } = grid;
  if (active === undefined || active.row === headerRow || !isOutline(source)) return false;
  const line = source.row(active.row);
  if (line === undefined) return false;
  const action = outlineKey(event.key, line, columns[active.column]?.outline === true);
  if (action === 'toggle') toggle(active.row);
  if (action === 'out') {
    const around = source.pathAt(active.row).slice(0, -1);
    goTo({ row: Math.max(0, source.positionOf(around)), column: active.column }, grid);
  }
  return action !== undefined;
}
