import type { OutlineSource, Row, RowSource } from '@ephoros/client';
import type { Tone } from '@ephoros/core/schema';
import type { RowStyle } from '@ephoros/core/view';
import type { KeyboardEvent, ReactNode, Ref } from 'react';
import type { RulerPlace } from '../ruler/ruler.tsx';
import type { SortMark, TableColumn } from './column.ts';
import type { RowMarks } from './draft-marks.tsx';
import type { ActiveCell, CellRange } from './movement.ts';
import type { RowPlace } from './grid-keys.ts';

/** What can be done to a table from outside. */
export interface TableHandle {
  /** How wide each column needs to be for what of it is in view, in px, by its name. */
  readonly naturalWidths: () => Promise<Readonly<Record<string, number>>>;
  /**
   * Brings a row (counted from 0) into view, makes it the active one and takes the keyboard; or
   * leaves that where it is.
   */
  readonly goTo: (row: number, leaveKeyboard?: boolean) => void;
  readonly takeKeyboard: () => void;
  /**
   * So many rows came before those in view, which stay where they are, with the cell that is active then; the top stays
   * the top.
   */
  readonly shift?: (
    rows: number,
    active: (last: ActiveCell | undefined) => ActiveCell | undefined,
  ) => void;
  /** Makes the cell so many rows and columns further the active one, and takes the keyboard. */
  readonly move: (rows: number, columns: number) => void;
  /** The active cell, or the cells that are marked: rows counted from 0 over the whole result. */
  readonly cells: () => CellRange | undefined;
}

export interface RecordTableProps {
  readonly source: RowSource | OutlineSource;
  readonly columns: readonly TableColumn[];
  /** What screen readers call the table. */
  readonly label: string;
  /** Only these rows (a page): `from` up to, not including, `to`; by default all of them. */
  readonly range?: { readonly from: number; readonly to: number };
  /** The row that each result begins at (counted from 0), without a `range`; 0 by default. */
  readonly startRow?: number;
  /** The sort in force, by weight. */
  readonly sort?: readonly SortMark[];
  /** A header was chosen to sort by; `add` when the terms so far shall stay. */
  readonly onSort?: (column: string, add: boolean) => void;
  /** A column is drawn wider or narrower; without it none can be. */
  readonly onResize?: (column: string, width: number) => void;
  /**
   * A column is drawn to another place, before another one or to the end; without it none can be.
   */
  readonly onMove?: (column: string, before: string | undefined) => void;
  /** Classes of a row next to its own. */
  readonly classOfRow?: ((row: Row) => string | undefined) | undefined;
  /** Whether a row is one of those selected; without it none can be. Another function when others are. */
  readonly isSelected?: (row: Row) => boolean;
  /** What of a row is drafted; another function when that is something else. */
  readonly marksOf?: ((row: Row) => RowMarks | undefined) | undefined;
  /** The cell that is being changed: its row counted from 0, and its field. */
  readonly edited?:
    { readonly position: number; readonly column: string; readonly content: ReactNode } | undefined;
  /** A key was pressed on a cell of a row; true where that was all it did. */
  readonly onRowKey?: (key: string, row: Row, event: KeyboardEvent, at: RowPlace) => boolean;
  /** In px; 34 by default. */
  readonly rowHeight?: number;
  /** How rows are set; plain by default. */
  readonly rowStyle?: readonly RowStyle[] | undefined;
  /** The height is that of so many rows, or of those that there are; as the room is by default. */
  readonly mostRows?: number | undefined;
  /** Whether each row is a card of several lines, without a header that is visible. */
  readonly cards?: boolean;
  /** The tone that a row is painted with. */
  readonly toneOf?: ((row: Row) => Tone | undefined) | undefined;
  /** What is folded out under a row (counted from 0), over those that follow it. */
  readonly under?: { readonly row: number; readonly content: ReactNode } | undefined;
  /** Stands in place of the rows while there are none: empty, nothing matches, failed. */
  readonly instead?: ReactNode;
  /** Stands next to the scroll bar, such as a `Ruler`. */
  readonly ruler?: ((place: RulerPlace) => ReactNode) | undefined;
  readonly handle?: Ref<TableHandle>;
  /** The first and the last row (counted from 0) that can be visible, whenever they change. */
  readonly onVisibleRowsChange?: (first: number, last: number) => void;
}
