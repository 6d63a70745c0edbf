import type { Row } from '@ephoros/client';
import { moved, sortedBy, type Density } from '@ephoros/core/view';
import { useCallback, useContext, useMemo, useRef, useState, type ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { noteInstead } from '../parts/notes.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import type { Drawn } from '../records/use-records.ts';
import { Unfolded } from './unfolded.tsx';
import { columnUnder, positionUnder } from '../table/line-under.ts';
import { RecordTable } from '../table/record-table.tsx';
import { isOutline, rowAt } from '../table/row-at.ts';
import { ChartPart } from './chart-part.tsx';
import { PrintPart } from './print-part.tsx';
import { RequestLogPart } from './request-log-part.tsx';
import { KeptOpen, ContextTarget } from './context-targets.tsx';
import { useSheet } from './sheet-context.ts';
import { positionOf } from './use-opened.ts';
import { useCellActions } from './use-cell-actions.tsx';
import { EditingContext } from './edited-parts.tsx';
import { useHelpKey } from './use-help-key.ts';
import { useRowActions } from './use-row-actions.ts';

/** How much higher or lower than usual a row is, in px. */
const heights: Readonly<Record<Density, number>> = { compact: -8, normal: 0, roomy: 10 };

/** Px for the lines that a long text takes next to its first one. */
const wrappedRoom = 36;

/** Px of a line of a card, and of what is above and below its lines. */
const cardLine = 24;
const cardEdges = 16;

/** Loaded with the first long result. */
const rulerPart = new Later(() => import('./view-ruler.tsx'));

/** Loaded when rows first lie side by side. */
const acrossPart = new Later(() => import('./across.tsx'));

/** Loaded with the first row that is opened. */
const cards = new Later(() => import('./opened-card.tsx'));

/** Rows from which on the strip next to the scroll bar is worth its room. */
const longResult = 500;

/** Whether a result is long, and its places are known by their values. */
function isLong({ request, table, open, total = 0 }: Drawn): boolean {
  return request?.mileposts !== undefined && table.key.length > 0 && !open && total >= longResult;
}

/** The rows of the view, or its groups; what stands in their place where there are none. */
export function Rows(): ReactElement {
  const area = useRef<HTMLDivElement>(null);
  useHelpKey(area);
  const {
    drawn,
    cardLines,
    allColumns,
    paint,
    printable,
    visible,
    setVisible,
    handle,
    label,
    rowHeight,
    selectable,
    ruler,
  } = useSheet();
  const { onActivate, onPress, classOfRow, instead, card, cardPlace, opened, requestLog } =
    useSheet();
  const model = useModel();
  const records = useRowsOf();
  const { view, change, reading, source, selection, total } = records;
  const grouped = isOutline(source);
  const scrolled = reading === 'scroll' && !grouped;
  const long = ruler && scrolled && isLong(records);
  const strip = useLater(rulerPart, long);
  const lies = view.layout === 'across' && !grouped;
  const across = useLater(acrossPart, lies);
  const { size, page } = records.pager;
  const appends = reading === 'more';
  const from = appends ? 0 : records.window.from;
  const to = appends ? page * size : from + size;
  const range = useMemo(
    () => (scrolled || grouped ? undefined : { from, to }),
    [scrolled, grouped, from, to],
  );
  const cells = useCellActions();
  const editing = useContext(EditingContext);
  const { choose, onRowKey } = useRowActions(cells.copyMarked, editing?.onKey);
  const openedRow = useLater(cards, card !== false && opened.key !== undefined);
  const openKey = card === false ? undefined : opened.key;
  const classes = useCallback(
    (row: Row) => {
      const own = classOfRow?.(row);
      if (openKey === undefined || selection.keyOf(row) !== openKey) return own;
      return own === undefined ? 'eph-opened' : `eph-opened ${own}`;
    },
    [classOfRow, openKey, selection],
  );
  const opensUnder = cardPlace === 'under' && !lies;
  const openAt = opensUnder ? positionOf(openKey, opened.position.current, records) : undefined;
  const cardShown = openKey !== undefined && openedRow.state === 'ready' && (
    <openedRow.result.OpenedCard />
  );
  const wrapped = view.rowStyle?.includes('wrapped') === true;
  // Where no card opens, the rest of a row unfolds under it.
  const carded = cardLines !== undefined;
  const unfolds = carded && card === false;
  const [unfolding, setUnfolding] = useState<{ readonly of: unknown; readonly at: number }>();
  // Other rows begin folded.
  const unfolded = unfolding?.of === source ? unfolding.at : undefined;
  const unfoldedRow = unfolds && unfolded !== undefined ? rowAt(source, unfolded) : undefined;
  const rest =
    unfolded !== undefined && unfoldedRow !== undefined
      ? {
          row: unfolded,
          content: (
            <Unfolded
              row={unfoldedRow}
              columns={allColumns.filter(
                ({ name }) => name !== '' && !drawn.columns.some((one) => one.name === name),
              )}
            />
          ),
        }
      : undefined;
  const setting = heights[view.density ?? model.usualDensity];
  const height =
    cardLines === undefined
      ? rowHeight + setting + (wrapped ? wrappedRoom : 0)
      : cardLines * cardLine + cardEdges + setting;
  const asContent = view.height === 'content' && !lies;
  const begin = scrolled && view.place?.kind === 'offset' ? view.place.offset : 0;
  return (
    <div
      ref={area}
      className="eph-area"
      data-height={asContent ? 'content' : undefined}
      data-chart={view.chart && (view.chartSide ?? 'above')}
    >
      {view.chart !== undefined && <ChartPart chart={view.chart} />}
      <div
        className="eph-middle"
        {...cells.handlers}
        onPaste={editing?.onPaste}
        onClickCapture={(event) => {
          const { target, currentTarget, shiftKey } = event;
          const isBox = selectable && (target as Element).closest('.eph-box') !== null;
          const position = isBox ? positionUnder(target, currentTarget) : -1;
          if (position < 0 || !choose(position, shiftKey)) return;
          event.stopPropagation();
          event.preventDefault();
        }}
        onClick={(event) => {
          const { target, currentTarget } = event;
          if (isOfItsOwn(target)) return;
          if (unfolds) {
            const at = positionUnder(target, currentTarget);
            setUnfolding(at === unfolded ? undefined : { of: source, at });
          }
          if (onPress === undefined) return;
          const row = rowAt(source, positionUnder(target, currentTarget));
          const column = columnUnder(target, drawn.columns);
          if (row !== undefined && column) onPress(row, { column, event });
        }}
        onDoubleClick={({ target, currentTarget }) => {
          const position = positionUnder(target, currentTarget);
          const column = columnUnder(target, drawn.columns);
          if (position >= 0 && column && editing?.begin(position, column) === true) return;
          const row = onActivate && rowAt(source, positionUnder(target, currentTarget));
          if (row !== undefined) onActivate?.(row);
        }}
      >
        {lies ? (
          (across.state === 'ready' && (
            <across.result.Across onRowKey={onRowKey} editing={editing} />
          )) ||
          (across.state === 'failed' && <LoadFailure retry={across.retry} />)
        ) : (
          <RecordTable
            // Rows of another height are another sheet, which begins where the view is.
            key={`${height} ${carded}`}
            source={source}
            columns={drawn.columns}
            cards={carded}
            label={label}
            sort={records.sort}
            onSort={(name, add) => change((last) => sortedBy(last, name, add, model.table))}
            onResize={(name, width) =>
              change((last) => ({ ...last, widths: { ...last.widths, [name]: width } }), {
                passing: true,
              })
            }
            onVisibleRowsChange={setVisible}
            onRowKey={onRowKey}
            onMove={(name, before) => {
              const from = model.shown.indexOf(name);
              if (from === -1) return;
              const others = model.shown.filter((one) => one !== name);
              const to = before === undefined ? -1 : others.indexOf(before);
              const names = moved(model.shown, from, to === -1 ? others.length : to);
              change({ columns: names.map((one) => ({ name: one, span })) });
            }}
            classOfRow={classes}
            marksOf={editing?.marksOf}
            edited={editing?.edited}
            under={openAt === undefined ? rest : { row: openAt, content: cardShown }}
            instead={noteInstead(records, model, instead)}
            handle={handle}
            rowHeight={height}
            rowStyle={view.rowStyle}
            // Of all rows at once no page is as high: one scroll is as high as a page is.
            mostRows={asContent ? size : undefined}
            toneOf={paint?.row}
            ruler={
              long && strip.state === 'ready'
                ? (place) => <strip.result.ViewRuler {...place} />
                : undefined
            }
            {...(selectable ? { isSelected: selection.has } : {})}
            {...(range === undefined ? { startRow: begin } : { range })}
          />
        )}
        {scrolled && <ContextTarget visible={visible} known={total !== undefined} />}
        {grouped && <KeptOpen source={source} />}
      </div>
      {cells.shown}
      {printable && (
        <PrintPart
          columns={allColumns}
          after={() => {
            const { first, last } = visible.get();
            source.setVisibleRows(first, last + 1);
          }}
        />
      )}
      {requestLog?.open === true && <RequestLogPart {...requestLog} />}
      {!opensUnder && cardShown}
      {openKey !== undefined && openedRow.state === 'failed' && (
        <LoadFailure retry={openedRow.retry} />
      )}
    </div>
  );
}

const span = { start: 0, end: 0 };

/** What does something itself, or a text that was just marked. */
function isOfItsOwn(target: EventTarget): boolean {
  const own = (target as Element).closest(
    'a, button, input, select, textarea, label, summary, [role=button], .eph-under',
  );
  // What stands around the whole table is nothing of its own.
  if (own?.closest('.eph-middle') != null) return true;
  return getSelection()?.isCollapsed === false;
}
