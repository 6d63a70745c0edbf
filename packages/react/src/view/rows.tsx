import type { Row } from '@ephoros/client';
import { moved, sortedBy, type Density } from '@ephoros/core/view';
import { useCallback, useMemo, useRef, type KeyboardEvent, type ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import type { RangeEnd } from '../parts/select-range.ts';
import { noteInstead } from '../parts/notes.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import type { Drawn } from '../records/use-records.ts';
import type { RowPlace } from '../table/grid-keys.ts';
import { RecordTable } from '../table/record-table.tsx';
import { isOutline, rowAt } from '../table/row-at.ts';
import { KeptOpen, KeptPlace } from './kept.tsx';
import { useSheet } from './sheet-context.ts';
import { positionOf } from './use-opened.ts';
import { useCellDeeds } from './use-cell-deeds.tsx';

/** How much higher or lower than usual a row is, in px. */
const heights: Readonly<Record<Density, number>> = { compact: -8, normal: 0, roomy: 10 };

/** Loaded with the first long result. */
const rulerPart = new Later(() => import('./view-ruler.tsx'));

/** Loaded when rows first lie side by side. */
const acrossPart = new Later(() => import('./across.tsx'));

/** Loaded with the first row that is opened. */
const cards = new Later(() => import('./opened-card.tsx'));

/** Rows from which on the strip beside the scroll bar is worth its room. */
const longResult = 500;

/** Whether a result is long, and its places are known by their values. */
function isLong({ ask, table, open, total = 0 }: Drawn): boolean {
  return ask?.mileposts !== undefined && table.key.length > 0 && !open && total >= longResult;
}

/** The rows of the view, or its groups; what stands in their place where there are none. */
export function Rows(): ReactElement {
  const { drawn, visible, setVisible, handle, label, rowHeight, selectable, ruler } = useSheet();
  const { onActivate, onPress, classOfRow, instead, single, setRefusal, card, opened } = useSheet();
  const { cardPlace } = useSheet();
  const model = useModel();
  const records = useRowsOf();
  const { view, change, reading, source, selection, total } = records;
  const grouped = isOutline(source);
  const scrolled = reading === 'scroll' && !grouped;
  const long = ruler && scrolled && isLong(records);
  const strip = useLater(rulerPart, long);
  const lies = view.layout === 'across' && !grouped;
  const across = useLater(acrossPart, lies);
  const { from } = records.window;
  const { size } = records.pager;
  const range = useMemo(
    () => (scrolled || grouped ? undefined : { from, to: from + size }),
    [scrolled, grouped, from, size],
  );
  const anchor = useRef<RangeEnd & { readonly source: unknown }>(undefined);
  // From the row that was selected last to another one, or that one alone.
  const choose = (position: number, ranged: boolean): boolean => {
    const last = ranged ? anchor.current : undefined;
    const row = rowAt(source, position);
    const end = { position, key: row && selection.keyOf(row) };
    anchor.current = { source, ...end };
    // In another order the row that was selected last lies elsewhere.
    if (last?.source !== source || single) return false;
    void import('../parts/selection-line.tsx')
      .then(({ selectRange }) => selectRange(records, last, end))
      .then(setRefusal, setRefusal);
    return true;
  };
  const deeds = useCellDeeds();
  const onRowKey = (
    key: string,
    row: Row,
    event: KeyboardEvent,
    { column, position }: RowPlace,
  ): boolean => {
    if (selectable && key === ' ') {
      if (!choose(position, event.shiftKey)) selection.toggle(row);
    } else if (selectable && key === 'a' && (event.ctrlKey || event.metaKey))
      selection.toggleWindow();
    else if (key === 'c' && (event.ctrlKey || event.metaKey)) deeds.copyMarked();
    else if (key === 'Enter' && onActivate !== undefined) onActivate(row);
    else if (key === 'Enter' && card !== false && selection.keyOf(row) !== undefined)
      opened.open(selection.keyOf(row), position);
    else if (key === 'Enter' && onPress !== undefined) onPress(row, { column, event });
    else return false;
    return true;
  };
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
  const height = rowHeight + heights[view.density ?? 'normal'];
  const begin = scrolled && view.place?.kind === 'offset' ? view.place.offset : 0;
  return (
    <div className="eph-area">
      <div
        className="eph-middle"
        {...deeds.handlers}
        onKeyDown={({ key, target, currentTarget }) => {
          if (key !== '?' || !(target as Element).matches('.eph-table')) return;
          currentTarget.closest('.eph-view')?.querySelector<HTMLElement>('.eph-help')?.click();
        }}
        onClickCapture={(event) => {
          const box = selectable && (event.target as Element).closest('.eph-row .eph-box');
          const position = box ? positionUnder(event.target) : -1;
          if (position < 0 || !choose(position, event.shiftKey)) return;
          event.stopPropagation();
          event.preventDefault();
        }}
        onClick={(event) => {
          if (onPress === undefined || isOfItsOwn(event.target)) return;
          const row = rowUnder(event.target, source);
          const column = drawn.columns[columnUnder(event.target)]?.name;
          if (row !== undefined && column) onPress(row, { column, event });
        }}
        onDoubleClick={({ target }) => {
          const row = onActivate && rowUnder(target, source);
          if (row !== undefined) onActivate?.(row);
        }}
      >
        {lies ? (
          (across.state === 'ready' && <across.result.Across />) ||
          (across.state === 'failed' && <LoadFailure retry={across.retry} />)
        ) : (
          <RecordTable
            // Rows of another height are another sheet, which begins where the view is.
            key={height}
            source={source}
            columns={drawn.columns}
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
            under={openAt === undefined ? undefined : { row: openAt, content: cardShown }}
            instead={noteInstead(records, model, instead)}
            handle={handle}
            rowHeight={height}
            beside={
              long && strip.state === 'ready'
                ? (place) => <strip.result.ViewRuler {...place} />
                : undefined
            }
            {...(selectable ? { isSelected: selection.has } : {})}
            {...(range === undefined ? { startRow: begin } : { range })}
          />
        )}
        {scrolled && <KeptPlace visible={visible} known={total !== undefined} />}
        {grouped && <KeptOpen source={source} />}
      </div>
      {deeds.shown}
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
  if ((target as Element).closest('.eph-under') !== null) return true;
  const own = (target as Element).closest(
    'a, button, input, select, textarea, label, summary, [role=button]',
  );
  if (own?.closest('.eph-cell') != null) return true;
  return getSelection()?.isCollapsed === false;
}

/** The place of the column that an element lies in, from 0; -1 for none. */
function columnUnder(target: EventTarget): number {
  const cell = (target as Element).closest('.eph-cell');
  return Number(cell?.getAttribute('aria-colindex') ?? 0) - 1;
}

/** The row that an element lies in. */
function rowUnder(target: EventTarget, source: Drawn['source']): Row | undefined {
  const position = positionUnder(target);
  return position < 0 ? undefined : rowAt(source, position);
}

/** The position of the row that an element lies in, from 0; negative for none. */
function positionUnder(target: EventTarget): number {
  // What is folded out under a row may hold rows of its own.
  if ((target as Element).closest('.eph-under') !== null) return -1;
  const index = (target as Element).closest('.eph-row')?.getAttribute('aria-rowindex');
  // Counted from 1, behind the header.
  return Number(index ?? 0) - 2;
}
