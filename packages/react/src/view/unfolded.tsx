import type { Row } from '@ephoros/client';
import type { ReactElement } from 'react';
import type { TableColumn } from '../table/column.ts';

interface UnfoldedProps {
  readonly row: Row;
  /** The columns that the card itself has no room for. */
  readonly columns: readonly TableColumn[];
}

/** The rest of a row, under its card. */
export function Unfolded({ row, columns }: UnfoldedProps): ReactElement {
  return (
    <dl className="eph-unfolded">
      {columns.map(({ name, label, render }) => (
        <div key={name}>
          <dt>{label}</dt>
          <dd>{render?.(row[name] ?? null, row)}</dd>
        </div>
      ))}
    </dl>
  );
}
