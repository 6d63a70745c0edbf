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
    <ul className="grid gap-1">
      {columns.map((column) => (
        <li key={column.name}>
          <button
            type="button"
            className="flex w-full cursor-pointer items-baseline gap-3 text-left hover:text-amber"
            onClick={() => choose(column)}
          >
            {column.label}
            <span className="text-xs text-faint">{remark?.(column)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
