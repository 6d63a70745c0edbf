import type { Row } from '@ephoros/client';
import { memo, type ReactElement } from 'react';
import type { TableColumn } from './column.ts';

interface TableRowProps {
  /** The table's id; cells are named after it, their row and their column. */
  readonly id: string;
  /** Undefined while the row is on its way. */
  readonly row: Row | undefined;
  /** Counted from 0 over the whole result. */
  readonly position: number;
  readonly columns: readonly TableColumn[];
  readonly template: string;
  readonly height: number;
  readonly activeColumn: number | undefined;
  readonly onActivate: (position: number, column: number) => void;
}

/** One row, or a placeholder of the same height. */
export const TableRow = memo(function TableRow(props: TableRowProps): ReactElement {
  const { id, row, position, columns, template, height, activeColumn, onActivate } = props;
  return (
    <div
      role="row"
      className="eph-row"
      aria-rowindex={position + 2}
      aria-busy={row === undefined}
      data-active={activeColumn !== undefined}
      style={{ height, gridTemplateColumns: template }}
    >
      {columns.map((column, index) => (
        <div
          key={column.name}
          id={`${id}-${position}-${index}`}
          role="gridcell"
          className="eph-cell"
          aria-colindex={index + 1}
          data-align={column.align ?? 'start'}
          data-active={activeColumn === index}
          onMouseDown={() => onActivate(position, index)}
        >
          {row === undefined ? <i className="eph-placeholder" /> : draw(column, row)}
        </div>
      ))}
    </div>
  );
});

function draw(column: TableColumn, row: Row): React.ReactNode {
  const value = row[column.name] ?? null;
  if (column.render !== undefined) return column.render(value, row);
  return value === null ? null : typeof value === 'object' ? JSON.stringify(value) : String(value);
}
