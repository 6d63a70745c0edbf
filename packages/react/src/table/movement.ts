/** A cell by its position: row from 0 over the whole result, column from 0. */
export interface CellPlace {
  readonly row: number;
  readonly column: number;
}

/** The cell that has the keyboard, and the one from which on cells are marked, if any are. */
export interface ActiveCell extends CellPlace {
  readonly anchor?: CellPlace | undefined;
}

/** Marked cells: whole numbers from 0, both ends among them. */
export interface CellRange {
  readonly firstRow: number;
  readonly lastRow: number;
  readonly firstColumn: number;
  readonly lastColumn: number;
}

/** The cells between an active cell and its anchor; undefined where there are none. */
export function markedCells(active: ActiveCell | undefined): CellRange | undefined {
  const anchor = active?.anchor;
  if (active === undefined || anchor === undefined) return undefined;
  return {
    firstRow: Math.min(active.row, anchor.row),
    lastRow: Math.max(active.row, anchor.row),
    firstColumn: Math.min(active.column, anchor.column),
    lastColumn: Math.max(active.column, anchor.column),
  };
}

interface Bounds {
  readonly firstRow: number;
  readonly lastRow: number;
  readonly lastColumn: number;
  /** Rows that a page key moves by. */
  readonly pageRows: number;
  /** Whether columns run from right to left; they run from left to right by default. */
  readonly mirrored?: boolean;
}

const mirrors: Readonly<Record<string, string>> = {
  ArrowLeft: 'ArrowRight',
  ArrowRight: 'ArrowLeft',
};

/**
 * Where a key moves the active cell to (WAI-ARIA grid pattern); undefined for keys that do not
 * move it. `whole` is true while Control or Command is held.
 */
export function moved(
  { row, column }: CellPlace,
  key: string,
  whole: boolean,
  { firstRow, lastRow, lastColumn, pageRows, mirrored = false }: Bounds,
): CellPlace | undefined {
  const at = (toRow: number, toColumn: number): CellPlace => ({
    row: Math.min(lastRow, Math.max(firstRow, toRow)),
    column: Math.min(lastColumn, Math.max(0, toColumn)),
  });
  switch (mirrored ? (mirrors[key] ?? key) : key) {
    case 'ArrowDown':
      return whole ? at(lastRow, column) : at(row + 1, column);
    case 'ArrowUp':
      return whole ? at(firstRow, column) : at(row - 1, column);
    case 'ArrowRight':
      return at(row, whole ? lastColumn : column + 1);
    case 'ArrowLeft':
      return at(row, whole ? 0 : column - 1);
    case 'PageDown':
      return at(row + pageRows, column);
    case 'PageUp':
      return at(row - pageRows, column);
    case 'Home':
      return whole ? at(firstRow, 0) : at(row, 0);
    case 'End':
      return whole ? at(lastRow, lastColumn) : at(row, lastColumn);
    default:
      return undefined;
  }
}
