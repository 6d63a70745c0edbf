import { memo, useState, type PointerEvent, type ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import { Later } from '../later.ts';
import { pinned, type PlacedColumn, type SortMark } from './column.ts';
import { Grip } from './grip.tsx';
import type { Drag } from './column-drag.ts';

/** Loaded with the first press on a header. */
const dragging = new Later(() => import('./column-drag.ts'));

interface TableHeaderProps {
  readonly columns: readonly PlacedColumn[];
  readonly sort: readonly SortMark[];
  readonly template: string;
  readonly height: number;
  /** Of all columns together, in px. */
  readonly minWidth: number;
  readonly onSort: ((column: string, add: boolean) => void) | undefined;
  readonly onResize: ((column: string, width: number) => void) | undefined;
  /** A column shall be as wide as what is in view of it needs. */
  readonly onFit: (column: string) => void;
  readonly onMove: ((column: string, before: string | undefined) => void) | undefined;
  /** The header cell that has the keyboard, and its id. */
  readonly activeColumn: number | undefined;
  readonly activeId: string | undefined;
}

/** The header row: a label sorts when it is chosen; with Shift it is added to the sort. */
export const TableHeader = memo(function TableHeader(props: TableHeaderProps): ReactElement {
  const { columns, sort, template, height, minWidth, onSort, onResize } = props;
  const { activeColumn, activeId, onFit, onMove } = props;
  const [drag, setDrag] = useState<Drag>();
  // Until it is known which columns there are.
  const isEmpty = columns.length === 0;
  const press = (event: PointerEvent<HTMLElement>): void => {
    const { target, currentTarget: row, button, pointerType, clientX: x } = event;
    // A finger scrolls, as everywhere.
    if (onMove === undefined || button !== 0 || pointerType === 'touch') return;
    const element = target as Element;
    if (element.closest('.eph-grip, .eph-mark-button, .eph-box') !== null) return;
    const begun = { columns, row, x, target: element, show: setDrag, move: onMove };
    const known = dragging.get();
    if (known !== undefined) known.followDrag(begun);
    // Columns are moved by the sheet of each where that cannot be had.
    else
      dragging.request().then(
        ({ followDrag }) => followDrag(begun),
        () => undefined,
      );
  };
  return (
    <div className="eph-head" role={isEmpty ? 'none' : 'rowgroup'} style={{ height, minWidth }}>
      <div
        className="eph-head-row"
        role={isEmpty ? 'none' : 'row'}
        aria-rowindex={isEmpty ? undefined : 1}
        style={{ gridTemplateColumns: template }}
        data-dragging={drag !== undefined}
        onPointerDown={press}
      >
        {columns.map((column, index) => {
          const weight = sort.findIndex((mark) => mark.column === column.name);
          return (
            <div
              key={column.name}
              role="columnheader"
              className="eph-head-cell"
              id={activeColumn === index ? activeId : undefined}
              data-align={column.align ?? 'start'}
              data-active={activeColumn === index}
              data-drop={dropAt(drag, index, columns.length)}
              {...pinned(column)}
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
              {onResize !== undefined && <Grip column={column} onResize={onResize} onFit={onFit} />}
            </div>
          );
        })}
      </div>
    </div>
  );
});

/** At which side of a header cell the one that is dragged would come to stand. */
function dropAt(
  drag: Drag | undefined,
  index: number,
  count: number,
): 'before' | 'behind' | undefined {
  if (drag === undefined || drag.to === drag.from) return undefined;
  if (drag.to === index) return 'before';
  return drag.to === count && index === count - 1 ? 'behind' : undefined;
}

interface HeaderLabelProps {
  readonly column: PlacedColumn;
  readonly mark: SortMark | undefined;
  /** The term's place among several, from 1; 0 when it stands alone or not at all. */
  readonly weight: number;
  readonly onSort: ((column: string, add: boolean) => void) | undefined;
}

function HeaderLabel({ column, mark, weight, onSort }: HeaderLabelProps): ReactElement {
  const messages = useMessages();
  if (column.sortable !== true || onSort === undefined) {
    return <span className="eph-head-label">{column.label}</span>;
  }
  return (
    <button
      type="button"
      // The keyboard comes here by the arrow keys of the grid.
      tabIndex={-1}
      className="eph-head-label"
      data-sorted={mark !== undefined}
      title={messages.sortHint(column.label)}
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
