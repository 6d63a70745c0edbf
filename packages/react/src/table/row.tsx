import type { Row } from '@ephoros/client';
import type { Tone } from '@ephoros/core/schema';
import { memo, type MouseEvent, type ReactElement, type ReactNode } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import { lengthClass } from './cell.tsx';
import { activateCell, isBox, isMarking } from './activate-cell.ts';
import { marked, markOf, type RowMarks } from './draft-marks.tsx';
import { painted } from './painted.ts';
import { pinned, type PlacedColumn } from './column.ts';

/** What a row is drawn from. */
export interface TableRowProps {
  /** The id of the active cell, if it is in this row. */
  readonly activeId: string | undefined;
  /** Undefined while the row is on its way. */
  readonly row: Row | undefined;
  /** What stood there before and is only hidden while the row is on its way. */
  readonly hidden?: Row | undefined;
  /** Counted from 0 over the whole result. */
  readonly position: number;
  readonly columns: readonly PlacedColumn[];
  readonly template: string;
  /** Px from the top of the rows' layer. */
  readonly top: number;
  readonly height: number;
  readonly activeColumn: number | undefined;
  /** Whether it is one of the rows that were selected; undefined where none can be. */
  readonly selected?: boolean | undefined;
  /** Classes next to its own. */
  readonly own?: string | undefined;
  /** The tone that it is painted with. */
  readonly tone?: Tone | undefined;
  /** Whether it is one of every two that are tinted. */
  readonly odd?: boolean;
  /** What of it is drafted. */
  readonly marks?: RowMarks | undefined;
  /** The field of a cell that is being changed. */
  readonly edited?: { readonly column: string; readonly content: ReactNode } | undefined;
  /** The first and the last column whose cells are marked. */
  readonly markedFrom?: number | undefined;
  readonly markedTo?: number | undefined;
  /** A cell was pressed, or passed with the button held down: `marks` the cells on the way. */
  readonly onActivate: (position: number, column: number, marks?: boolean) => void;
  /** In an outline: in how many groups it lies. */
  readonly level?: number;
  /** Whether it stands for rows of which there are none any more. */
  readonly empty?: boolean;
  /** Why the row cannot be had. */
  readonly error?: Error;
  readonly retry?: () => void;
}

/** One row, or a placeholder of the same height. */
export const TableRow = memo(function TableRow(props: TableRowProps): ReactElement {
  const { activeId, row, hidden, position, columns, template, top, height, activeColumn } = props;
  const { level, empty = false, error, retry, own, marks } = props;
  const messages = useMessages();
  const onMouse = (event: MouseEvent): void => {
    const { target, buttons, type } = event;
    const passes = type !== 'mousedown';
    // Only the first button marks, and only from one cell to another one.
    if (passes && (buttons !== 1 || !isMarking(event))) return;
    // The menu of marked cells is about all of them.
    if (event.button === 2 && (target as Element).closest('.eph-cell[aria-selected]')) return;
    const reaches = event.shiftKey && buttons === 1 && !isBox(target);
    // Nor is any text marked on the way there.
    if (reaches) event.preventDefault();
    activateCell(target, (column) => props.onActivate(position, column, passes || reaches));
  };
  return (
    <div
      role="row"
      className={own === undefined ? 'eph-row' : `eph-row ${own}`}
      aria-rowindex={position + 2}
      aria-busy={row === undefined && error === undefined && !empty}
      aria-level={level === undefined ? undefined : level + 1}
      aria-selected={props.selected}
      data-active={activeColumn !== undefined}
      data-draft={marks?.kind}
      data-tone={props.tone}
      data-odd={props.odd === true || undefined}
      title={marks?.message}
      style={{ top, height, gridTemplateColumns: template }}
      onMouseDown={onMouse}
      onMouseOver={onMouse}
    >
      {empty ? (
        <div role="gridcell" className="eph-cell eph-note">
          {messages.emptyGroup}
        </div>
      ) : error === undefined ? (
        <Cells
          row={row}
          hidden={hidden}
          columns={columns}
          activeColumn={activeColumn}
          activeId={activeId}
          markedFrom={props.markedFrom}
          markedTo={props.markedTo}
          marks={marks}
          edited={props.edited}
          // Placeholders that only change their place are left as they are, where nobody counts them.
          position={columns[0]?.number === undefined ? undefined : position}
        />
      ) : (
        <div role="gridcell" className="eph-cell eph-note eph-failed">
          {messages.translate(error.message)}
          <button type="button" className="eph-retry" onClick={retry}>
            {messages.tryAgain}
          </button>
        </div>
      )}
    </div>
  );
});

type CellsProps = Pick<
  TableRowProps,
  | 'row'
  | 'hidden'
  | 'columns'
  | 'activeColumn'
  | 'activeId'
  | 'markedFrom'
  | 'markedTo'
  | 'marks'
  | 'edited'
> & { readonly position: number | undefined };

/** Apart from their row, so that placeholders that only change their place are left as they are. */
const Cells = memo(function Cells({
  row,
  hidden,
  columns,
  activeColumn,
  activeId,
  markedFrom = Infinity,
  markedTo = -1,
  marks,
  edited,
  position,
}: CellsProps): ReactElement {
  const held = row ?? hidden;
  return (
    <>
      {columns.map((column, index) => (
        <div
          key={column.name}
          id={activeColumn === index ? activeId : undefined}
          role="gridcell"
          className={classOf(column, row)}
          aria-colindex={index + 1}
          data-align={column.align ?? 'start'}
          {...pinned(column)}
          {...painted(column, row)}
          data-caption={column.caption}
          data-outline={column.outline}
          data-active={activeColumn === index}
          aria-selected={(markedFrom <= index && index <= markedTo) || undefined}
          {...markOf(marks?.cells[column.name])}
        >
          {position !== undefined && column.number?.(position)}
          {edited?.column === column.name
            ? edited.content
            : held === undefined
              ? null
              : marks?.kind === 'added' && !Object.hasOwn(held, column.name)
                ? null
                : marked(draw(column, held), marks?.cells[column.name])}
        </div>
      ))}
    </>
  );
});

function classOf(column: PlacedColumn, row: Row | undefined): string {
  const own = row && column.classOfCell?.(row[column.name] ?? null, row);
  return own === undefined ? 'eph-cell' : `eph-cell ${own}`;
}

function draw(column: PlacedColumn, row: Row): ReactNode {
  if (column.outline === true) return null;
  const value = row[column.name] ?? null;
  if (column.render !== undefined) return column.render(value, row);
  if (value === null) return null;
  const text = typeof value === 'object' ? JSON.stringify(value) : String(value);
  return <span className={lengthClass(text)}>{text}</span>;
}
