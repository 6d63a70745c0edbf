import type { ReactElement } from 'react';
import { pinned, type PlacedColumn } from './column.ts';

interface TableFootProps {
  readonly columns: readonly PlacedColumn[];
  readonly template: string;
  readonly minWidth: number;
  readonly height: number;
  readonly rowIndex: number;
}

/** The line at the foot of the table, which stays in view. */
export function TableFoot(props: TableFootProps): ReactElement {
  const { columns, template, minWidth, height, rowIndex } = props;
  return (
    <div className="eph-foot" role="rowgroup" style={{ minWidth, height }}>
      <div
        role="row"
        className="eph-foot-row"
        aria-rowindex={rowIndex}
        style={{ gridTemplateColumns: template, height }}
      >
        {columns.map((column, index) => (
          <div
            key={column.name}
            role="gridcell"
            className="eph-cell"
            aria-colindex={index + 1}
            data-align={column.align ?? 'start'}
            {...pinned(column)}
          >
            {column.foot?.()}
          </div>
        ))}
      </div>
    </div>
  );
}
