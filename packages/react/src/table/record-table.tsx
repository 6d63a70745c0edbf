import type { OutlineLine } from '@ephoros/client';
import {
  useCallback,
  useEffect,
  useId,
  useImperativeHandle,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactElement,
} from 'react';
import { useLatest } from '../use-latest.ts';
import { useSource } from '../use-source.ts';
import { useMessages } from '../messages/use-messages.ts';
import { placed, type SortMark, type TableColumn } from './column.ts';
import { headerRow } from './cell-keys.ts';
import { TableHeader } from './header.tsx';
import { useFilledRows } from './filled-rows.ts';
import { FoldedOut } from './folded-out.tsx';
import { TableFoot } from './foot.tsx';
import { widthWithin } from './grip.tsx';
import { gridKey } from './grid-keys.ts';
import { markedCells, type ActiveCell } from './movement.ts';
import { GroupRow } from './group-row.tsx';
import type { RecordTableProps } from './record-table-props.ts';
import { revealSideways } from './reveal-sideways.ts';
import { TableRow, type TableRowProps } from './row.tsx';
import type { RowStyle } from '@ephoros/core/view';
import { endOf, rowVariables, templateOf } from './table-layout.ts';
import { useOutline } from './use-outline.ts';
import { useViewport } from './viewport.ts';

const usualHeaderHeight = 40;
/** Tracks of a card: what stands in the margin, and two fields next to each other. */
const cardFields = 'minmax(0, 1fr) minmax(0, 1fr)';
const unsorted: readonly SortMark[] = [];
const plain: readonly RowStyle[] = [];
/** Px for a bar to scroll sideways by. */
const barHeight = 16;

/**
 * A table over a row source. Only the rows in view, and a small margin, stand in the page; rows
 * on their way are placeholders of the same height. Styled by `@ephoros/react/table.css`.
 */
export function RecordTable(props: RecordTableProps): ReactElement {
  const {
    source,
    columns: given,
    label,
    range,
    sort = unsorted,
    onSort,
    rowHeight = 34,
    instead,
  } = props;
  const {
    startRow = 0,
    ruler: renderRuler,
    handle,
    onResize,
    onMove,
    isSelected,
    onRowKey,
    classOfRow,
    under,
    marksOf,
    edited,
    rowStyle = plain,
    mostRows,
    toneOf,
    cards = false,
  } = props;
  const onVisibleRowsChange = useLatest(props.onVisibleRowsChange);
  const messages = useMessages();
  const columns = useMemo(() => placed(given), [given]);
  const { total, open, status } = useSource<unknown>(source);
  const scroller = useRef<HTMLDivElement>(null);
  const gridId = useId();
  const offset = range?.from ?? 0;
  const end = endOf(range, total, open);
  const rowCount = Math.max(0, end - offset);
  const footed = !cards && columns.some(({ foot }) => foot !== undefined);
  const headerHeight = cards ? 0 : usualHeaderHeight;
  const taken = headerHeight + (footed ? rowHeight : 0);
  const view = useViewport(scroller, rowCount, rowHeight, taken);
  const { goTo, moveTo, reveal, shift } = view.place;
  const { outline, stuck, toggle } = useOutline(source, { ...view, moveTo, rowHeight, rowCount });
  const [active, setActive] = useState<ActiveCell | undefined>();
  // Another cell has another id, so that readers of the screen notice.
  const activeId = active && `${gridId}${active.row}-${active.column}`;

  const { first, end: drawnEnd, firstVisible, visibleEnd } = view;
  // Another page, or another question, begins where it is stated to by then.
  const [begun, begin] = useState({ source, offset, start: startRow });
  if (begun.source !== source || begun.offset !== offset) {
    begin({ source, offset, start: startRow });
  }
  const { start } = begun;
  const arrived = useRef(start === 0 ? begun : undefined);
  const ahead = total === undefined ? start : 0;
  const fetchFrom = offset + first + ahead;
  const unread = total === undefined || (open && total <= offset);
  const fetchEnd = unread && range ? range.to : offset + drawnEnd + ahead;
  useEffect(() => source.setVisibleRows(fetchFrom, fetchEnd), [source, fetchFrom, fetchEnd]);
  useEffect(
    () => onVisibleRowsChange(offset + firstVisible, offset + visibleEnd - 1),
    [onVisibleRowsChange, offset, firstVisible, visibleEnd],
  );
  useLayoutEffect(() => {
    // The place is gone to as soon as it is known how long the result is.
    if (total === undefined || arrived.current === begun) return;
    goTo(begun.start);
    arrived.current = begun;
  }, [total, goTo, begun]);
  const shown = useRef(begun);
  useEffect(() => {
    if (shown.current === begun) return;
    shown.current = begun;
    if (begun.start === 0) {
      goTo(0);
      arrived.current = begun;
    }
    // What the header has stays there.
    setActive((last) => (last?.row === headerRow ? last : undefined));
  }, [begun, goTo]);
  const takeKeyboard = useCallback(() => scroller.current?.focus({ preventScroll: true }), []);
  const placeOf = useCallback(
    (row: number) => Math.min(Math.max(0, row - offset), rowCount - 1),
    [offset, rowCount],
  );
  useImperativeHandle(
    handle,
    () => ({
      naturalWidths: () => widthsIn(scroller.current, columns),
      goTo: (row, leaveKeyboard = false) => {
        const place = placeOf(row);
        if (leaveKeyboard) reveal(place);
        else goTo(place);
        setActive((last) => ({ row: place, column: last?.column ?? 0 }));
        if (!leaveKeyboard) takeKeyboard();
      },
      shift: (rows, active) => {
        if (shift(rows)) setActive(active);
      },
      takeKeyboard,
      move: (rows, across) => {
        takeKeyboard();
        setActive((last) => {
          if (last === undefined || last.row === headerRow) return last;
          const row = Math.min(Math.max(0, last.row + rows), Math.max(0, rowCount - 1));
          const column = Math.min(Math.max(0, last.column + across), columns.length - 1);
          if (row !== last.row) reveal(row);
          return { row, column };
        });
      },
      cells: () => {
        const range = active && markedCells({ anchor: active, ...active });
        if (range === undefined || range.firstRow === headerRow) return undefined;
        const { firstRow, lastRow } = range;
        return { ...range, firstRow: firstRow + offset, lastRow: lastRow + offset };
      },
    }),
    [goTo, reveal, shift, takeKeyboard, placeOf, columns, active, offset, rowCount],
  );
  const fit = useCallback(
    (name: string) => {
      void widthsIn(scroller.current, columns).then(({ [name]: width }) => {
        if (width !== undefined) onResize?.(name, width);
      });
    },
    [columns, onResize],
  );

  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.target !== event.currentTarget) {
      // Out of what a cell holds, back to the grid.
      if (event.key === 'Escape') takeKeyboard();
      return;
    }
    gridKey(event, {
      source,
      columns,
      active,
      setActive,
      offset,
      rowCount,
      firstVisible,
      pageRows: Math.max(1, visibleEnd - firstVisible - 2),
      mirrored: messages.direction === 'rtl',
      onSort,
      onRowKey,
      toggle,
      reveal,
    });
  };

  const activate = useCallback(
    (position: number, column: number, marks = false) =>
      setActive((last) => {
        const place = { row: position - offset, column };
        if (!marks || last === undefined || last.row === headerRow) return place;
        return { ...place, anchor: last.anchor ?? last };
      }),
    [offset],
  );
  const marked = markedCells(active);
  // The rows stand still in a window as large as the view, however the bar is scaled.
  const windowHeight = Math.min(view.height, view.scale.height);
  const striped = rowStyle.includes('striped');
  const template = useMemo(() => {
    if (!cards) return templateOf(columns);
    return columns.some(({ caption }) => caption === undefined) ? `auto ${cardFields}` : cardFields;
  }, [cards, columns]);
  const minWidth = cards ? 0 : columns.reduce((sum, { width }) => sum + width, 0);
  const { chosen, held } = useFilledRows(first, drawnEnd, offset, { source, columns, ...view });
  // Rows are moved within the page only at rest: while they pass by, that would cost the most.
  const lines = view.moving ? [...chosen].sort((one, other) => one.slot - other.slot) : chosen;
  const activeDrawn =
    active !== undefined &&
    (active.row === headerRow || (active.row >= first && active.row < drawnEnd));
  useLayoutEffect(() => {
    if (activeDrawn && activeId !== undefined) revealSideways(scroller.current, activeId);
  }, [activeDrawn, activeId]);
  return (
    <div
      className="eph-frame"
      style={
        mostRows === undefined || instead !== undefined
          ? undefined
          : { height: Math.min(rowCount, mostRows) * rowHeight + taken + barHeight }
      }
    >
      <div
        ref={scroller}
        className="eph-table"
        data-wrapped={(rowStyle.includes('wrapped') && !cards) || undefined}
        data-cards={cards || undefined}
        role={outline === undefined ? 'grid' : 'treegrid'}
        aria-label={label}
        aria-rowcount={total === undefined || open ? -1 : total + 1}
        aria-colcount={columns.length}
        aria-multiselectable={isSelected === undefined ? undefined : true}
        aria-busy={status === 'loading' || held}
        aria-activedescendant={activeDrawn ? activeId : undefined}
        tabIndex={0}
        onKeyDown={onKeyDown}
      >
        <TableHeader
          columns={columns}
          sort={sort}
          template={template}
          height={headerHeight}
          minWidth={minWidth}
          onSort={onSort}
          onResize={onResize}
          onFit={fit}
          onMove={onMove}
          activeColumn={active?.row === headerRow ? active.column : undefined}
          activeId={activeId}
        />
        {instead === undefined ? (
          <div className="eph-body" role="rowgroup" style={{ height: view.scale.height, minWidth }}>
            <div
              className="eph-window"
              style={{ top: headerHeight, height: windowHeight, ...rowVariables(rowHeight) }}
            >
              <div className="eph-rows" style={{ transform: `translateY(${view.top}px)` }}>
                {lines.map(({ place, slot, row, hidden }) => {
                  const position = offset + place;
                  const line = outline?.row(position);
                  const isActive = active?.row === place;
                  const common = {
                    activeId: isActive ? activeId : undefined,
                    position,
                    columns,
                    template,
                    top: (place - view.base) * rowHeight,
                    height: rowHeight,
                    activeColumn: isActive ? active.column : undefined,
                    onActivate: activate,
                  };
                  const within =
                    marked !== undefined && marked.firstRow <= place && place <= marked.lastRow;
                  if (line?.kind === 'group') {
                    return <GroupRow key={slot} {...common} line={line} onToggle={toggle} />;
                  }
                  return (
                    <TableRow
                      key={slot}
                      {...common}
                      row={row}
                      hidden={hidden}
                      markedFrom={within ? marked.firstColumn : undefined}
                      markedTo={within ? marked.lastColumn : undefined}
                      own={row && classOfRow?.(row)}
                      tone={row && toneOf?.(row)}
                      odd={striped && position % 2 === 1}
                      marks={row && marksOf?.(row)}
                      edited={edited?.position === position ? edited : undefined}
                      selected={row === undefined ? undefined : isSelected?.(row)}
                      {...outlineProps(line)}
                      retry={source.retry}
                    />
                  );
                })}
                {under !== undefined && (
                  <FoldedOut
                    top={(under.row - offset - view.base) * rowHeight}
                    rowHeight={rowHeight}
                    // Where there is more room above it than below.
                    above={under.row - offset > (firstVisible + visibleEnd) / 2}
                  >
                    {under.content}
                  </FoldedOut>
                )}
              </div>
              {stuck.length > 0 && (
                <div className="eph-stuck">
                  {[...stuck].reverse().map(({ position, line, top }) => (
                    <GroupRow
                      key={line.depth}
                      stuck
                      activeId={undefined}
                      line={line}
                      position={position}
                      columns={columns}
                      template={template}
                      top={top}
                      height={rowHeight}
                      activeColumn={active?.row === position ? active.column : undefined}
                      onActivate={activate}
                      onToggle={toggle}
                    />
                  ))}
                </div>
              )}
            </div>
          </div>
        ) : (
          <div role="rowgroup">
            <div role="row">
              <div role="gridcell" className="eph-instead">
                {instead}
              </div>
            </div>
          </div>
        )}
        {footed && instead === undefined && (
          <TableFoot
            columns={columns}
            template={template}
            minWidth={minWidth}
            height={rowHeight}
            rowIndex={rowCount + 2}
          />
        )}
      </div>
      {instead === undefined &&
        renderRuler?.({ rowCount, firstVisible, visibleEnd, flying: view.flying, goTo })}
    </div>
  );
}

/** Measured by what is loaded when it is first wanted; nothing where that cannot be had. */
function widthsIn(
  grid: HTMLElement | null,
  columns: readonly TableColumn[],
): Promise<Readonly<Record<string, number>>> {
  return import('./natural-widths.ts').then(
    ({ naturalWidths }) => (grid === null ? {} : naturalWidths(grid, columns, widthWithin)),
    () => ({}),
  );
}

function outlineProps(
  line: OutlineLine | undefined,
): Pick<TableRowProps, 'level' | 'empty' | 'error'> {
  if (line === undefined) return {};
  const error = line.kind === 'missing' ? line.error : undefined;
  return {
    level: line.depth,
    empty: line.kind === 'empty',
    ...(error === undefined ? {} : { error }),
  };
}
