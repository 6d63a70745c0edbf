import { memo, type ReactElement } from 'react';
import type { SortMark, TableColumn } from './column.ts';

interface TableHeaderProps {
  readonly columns: readonly TableColumn[];
  readonly sort: readonly SortMark[];
  readonly template: string;
  readonly height: number;
  /** Of all columns together, in px. */
  readonly minWidth: number;
  readonly onSort: ((column: string, add: boolean) => void) | undefined;
}

/** The header row: a label sorts when it is chosen; with Shift it is added to the sort. */
export const TableHeader = memo(function TableHeader(props: TableHeaderProps): ReactElement {
  const { columns, sort, template, height, minWidth, onSort } = props;
  return (
    <div className="eph-head" role="rowgroup" style={{ height, minWidth }}>
      <div
        className="eph-head-row"
        role="row"
        aria-rowindex={1}
        style={{ gridTemplateColumns: template }}
      >
        {columns.map((column, index) => {
          const weight = sort.findIndex((mark) => mark.column === column.name);
          return (
            <div
              key={column.name}
              role="columnheader"
              className="eph-head-cell"
              data-align={column.align ?? 'start'}
              aria-colindex={index + 1}
              aria-sort={ariaSort(sort[weight])}
            >
              <HeaderLabel
                column={column}
                mark={sort[weight]}
                weight={sort.length > 1 ? weight + 1 : 0}
                onSort={onSort}
              />
              {column.extra}
            </div>
          );
        })}
      </div>
    </div>
  );
});

interface HeaderLabelProps {
  readonly column: TableColumn;
  readonly mark: SortMark | undefined;
  /** The term's place among several, from 1; 0 when it stands alone or not at all. */
  readonly weight: number;
  readonly onSort: ((column: string, add: boolean) => void) | undefined;
}

function HeaderLabel({ column, mark, weight, onSort }: HeaderLabelProps): ReactElement {
  if (column.sortable !== true || onSort === undefined) {
    return <span className="eph-head-label">{column.label}</span>;
  }
  return (
    <button
      type="button"
      className="eph-head-label"
      data-sorted={mark !== undefined}
      title={`${column.label}: sort (with Shift: as a further term)`}
      onClick={(event) => onSort(column.name, event.shiftKey)}
    >
      <span className="eph-head-text">{column.label}</span>
      {mark !== undefined && (
        <span className="eph-sort-mark" aria-hidden="true">
          {mark.descending ? '↓' : '↑'}
          {weight > 0 && <sub>{weight}</sub>}
        </span>
      )}
    </button>
  );
}

function ariaSort(mark: SortMark | undefined): 'ascending' | 'descending' | 'none' {
  if (mark === undefined) return 'none';
  return mark.descending ? 'descending' : 'ascending';
}
