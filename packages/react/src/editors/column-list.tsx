import type { ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';

interface ColumnListProps {
  readonly columns: readonly ColumnDescription[];
  readonly remark?: (column: ColumnDescription) => string;
  readonly choose: (column: ColumnDescription) => void;
}

/** Columns to choose one from, each with a remark where there is one. */
export function ColumnList({ columns, remark, choose }: ColumnListProps): ReactElement {
  return (
    <ul className="eph-plain-list">
      {columns.map((column) => (
        <li key={column.name}>
          <button type="button" className="eph-line-button" onClick={() => choose(column)}>
            {column.label}
            <span className="eph-aside">{remark?.(column)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
