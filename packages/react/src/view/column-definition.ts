import type { AnyTable, ColumnName, Row, SomeOf, TableTypes, TermValue } from '@ephoros/client';
import {
  plainColumn,
  type ColumnDescription,
  type ColumnFormat,
  type ColumnType,
  type ValueLabels,
} from '@ephoros/core/schema';
import type { ReactNode } from 'react';
import { warnings } from '../warnings.ts';

/** How a column of a table is shown; what is left out is as the table describes it. */
export type ColumnDefinition<Table extends TableTypes = AnyTable> = {
  [Name in ColumnName<Table>]: DefinitionOf<Table, Name>;
}[ColumnName<Table>];

/** A cell that is being changed, for a field of one's own. */
export interface EditedCell<CellValue = unknown, TableRow = object> {
  readonly value: CellValue;
  readonly row: TableRow;
  /** Takes a new value; the cell is a draft then. */
  readonly commit: (value: unknown) => void;
  /** Leaves it as it was. */
  readonly cancel: () => void;
}

interface DefinitionOf<Table extends TableTypes, Name extends ColumnName<Table>> {
  /** Its name in the rows; a related column by its path, `lock.name`. */
  readonly name: Name;
  readonly label?: string;
  /** In px. */
  readonly width?: number;
  readonly minWidth?: number;
  readonly maxWidth?: number;
  /** Whether it takes a share of the room that is left over. */
  readonly grows?: boolean;
  readonly align?: 'start' | 'end';
  readonly format?: ColumnFormat;
  /** Draws a cell. */
  readonly render?: (value: TermValue<Table, Name>, row: SomeOf<Table>) => ReactNode;
  /** Classes of a cell next to its own; none where the function gives undefined. */
  readonly classOfCell?:
    string | ((value: TermValue<Table, Name>, row: SomeOf<Table>) => string | undefined);
  /** What values are called, by the text of each: `{ disputed: 'In dispute' }`. */
  readonly valueLabels?: ValueLabels;
  /** Whether it stays in view when the others scroll sideways, at the start (true) or at the end. */
  readonly pinned?: boolean | 'end';
  /** Whether it is hidden until a reader shows it. */
  readonly hidden?: boolean;
  readonly sortable?: boolean;
  /** Whether readers can set a condition on it. */
  readonly filterable?: boolean;
  /** The field that its cells are changed in; by default the one of its type. */
  readonly editor?: (cell: EditedCell<TermValue<Table, Name>, SomeOf<Table>>) => ReactNode;
  /** What its values are, where nothing describes the table; text by default. */
  readonly type?: ColumnType;
}

/** A column as it is described, with what its definition says otherwise. */
export function describedBy(
  definition: ColumnDefinition,
  described: ColumnDescription | undefined,
): ColumnDescription {
  const { name, label, format, valueLabels, sortable, filterable } = definition;
  const { type = { kind: 'text' } } = definition;
  const known = described ?? plainColumn(name, type);
  return {
    ...known,
    ...(label === undefined ? {} : { label }),
    ...(format === undefined ? {} : { format }),
    ...(valueLabels === undefined ? {} : { valueLabels }),
    sortable: known.sortable && sortable !== false,
    filterable: known.filterable && filterable !== false,
  };
}

/** Reports, once, of defined columns that none of the rows at hand has. */
export function reportMissing(names: readonly string[], rows: readonly (Row | undefined)[]): void {
  const there = rows.filter((row) => row !== undefined);
  if (there.length === 0) return;
  const known = new Set(there.flatMap((row) => Object.keys(row)));
  for (const name of names) {
    if (known.has(name)) continue;
    warnings.report(
      name,
      () =>
        `no row has a column ${name}: its cells stay empty. Rows have ${[...known].join(', ')}.`,
    );
  }
}
