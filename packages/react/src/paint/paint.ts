import type { Row, Value } from '@ephoros/client';
import type { Tone } from '@ephoros/core/schema';
import type { CellPaint } from '../table/column.ts';

/** How rows and cells are painted. */
export interface Paint {
  readonly row: ((row: Row) => Tone | undefined) | undefined;
  /** Of the cells of a column; undefined where nothing paints them. */
  readonly cell: (name: string) => ((value: Value, row: Row) => CellPaint | undefined) | undefined;
}
