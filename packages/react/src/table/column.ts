import type { GroupLine, Row, Value } from '@ephoros/client';
import type { Tone } from '@ephoros/core/schema';
import type { SortMark } from '@ephoros/core/view';
import type { ReactNode } from 'react';

export type { SortMark };

/** How a cell is painted: a tone; a bar or a tint, by its place on a scale from 0 to 1. */
export interface CellPaint {
  readonly tone?: Tone;
  readonly bar?: number;
  readonly scale?: number;
}

/** How a table shows one column. */
export interface TableColumn {
  readonly name: string;
  readonly label: string;
  /** In px; at least, where the column grows. */
  readonly width: number;
  /** How narrow and how wide a reader can make it, in px; 48 and 1,200 by default. */
  readonly minWidth?: number;
  readonly maxWidth?: number;
  /**
   * Whether it stays in view when the others scroll sideways, at the start or at the end. Such
   * columns come first, or last.
   */
  readonly pinned?: boolean | 'end';
  /** Whether it takes a share of the room that is left over. */
  readonly grows?: boolean;
  /** Where the text stands in its cell; `start` by default. */
  readonly align?: 'start' | 'end';
  readonly sortable?: boolean;
  /** What stands before its values on a card; empty of what names the row. */
  readonly caption?: string;
  /** Draws a cell; by default the value as text. */
  readonly render?: (value: Value, row: Row) => ReactNode;
  /** Draws the number of a row (counted from 0) before what else the cell holds. */
  readonly number?: (position: number) => ReactNode;
  /** Classes of a cell next to its own. */
  readonly classOfCell?: (value: Value, row: Row) => string | undefined;
  /** How a rule paints a cell. */
  readonly paint?: (value: Value, row: Row) => CellPaint | undefined;
  /** Draws the cell in the line of a group, such as an aggregate; by default nothing. */
  readonly group?: (line: GroupLine, depth: number, position: number) => ReactNode;
  /** Whether it is the column that shows the outline: indented, with a mark that opens groups. */
  readonly outline?: boolean;
  /** Draws the cell in the line at the foot of the table; by default nothing. */
  readonly foot?: () => ReactNode;
  /** Stands behind the label in the header, such as a button that opens a menu. */
  readonly extra?: ReactNode;
}

/** A column in its place. */
export interface PlacedColumn extends TableColumn {
  /** Where it stays; of the pinned ones alone. */
  readonly stick?: Stuck;
}

/** Px from the beginning of the view, or from its end. */
interface Stuck {
  readonly insetInlineStart?: number;
  readonly insetInlineEnd?: number;
}

/** The columns with the places at which the pinned ones stay. */
export function placed(columns: readonly TableColumn[]): readonly PlacedColumn[] {
  let start = 0;
  let end = columns.reduce((sum, { pinned: at, width }) => sum + (at === 'end' ? width : 0), 0);
  return columns.map((column) => {
    if (column.pinned === 'end') {
      end -= column.width;
      return { ...column, stick: { insetInlineEnd: end } };
    }
    if (column.pinned !== true) return column;
    const at = start;
    start += column.width;
    return { ...column, stick: { insetInlineStart: at } };
  });
}

const loose = {};

/** What its cells need to stay in view. */
export function pinned({ stick }: PlacedColumn): {
  'data-pinned'?: 'start' | 'end';
  style?: Stuck;
} {
  if (stick === undefined) return loose;
  return { 'data-pinned': stick.insetInlineEnd === undefined ? 'start' : 'end', style: stick };
}
