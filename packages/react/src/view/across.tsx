import { sortedBy } from '@ephoros/core/view';
import {
  useCallback,
  useEffect,
  useId,
  useImperativeHandle,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactElement,
} from 'react';
import { plainText } from '../format/value.ts';
import { noteInstead } from '../parts/notes.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { moved, type CellPlace, type CellRange } from '../table/movement.ts';
import type { TableHandle } from '../table/record-table-props.ts';
import { marked, markOf } from '../table/draft-marks.tsx';
import { painted } from '../table/painted.ts';
import { rowAt } from '../table/row-at.ts';
import { renderedValue, Head, Label } from './across-parts.tsx';
import { sectionsShown } from './across-sections.ts';
import { useSheet } from './sheet-context.ts';
import type { RowActions } from './use-row-actions.ts';
import type { CellEditing } from './edited-parts.tsx';
import { useVisibleParts } from './use-visible-parts.ts';

/** Px of one row's column, and of the labels. */
const width = 230;
const labels = 190;
/** Rows beyond those in view that stand in the page, on either side. */
const margin = 2;
/** Rows that are held out while nobody has counted. */
const unknown = 20;
/** Rows that a page of a browser has room for side by side. */
const most = 100_000;

interface AcrossProps extends Pick<RowActions, 'onRowKey'> {
  /** What is done with cells to change them; undefined where nothing can be changed. */
  readonly editing: CellEditing | undefined;
}

/** The table lying on its side: its columns down the page in sections, its rows side by side. */
export function Across({ onRowKey, editing }: AcrossProps): ReactElement {
  const { setVisible, label, instead, drawn, handle } = useSheet();
  const model = useModel();
  const records = useRowsOf();
  const { source, window: scanned, reading, total, open, sort, view, change } = records;
  const { table, shown, reader } = model;
  const { messages } = reader;
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  const request = useVisibleParts(scroller, width, labels);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const [differing, setDiffering] = useState(false);
  const [activated, setActivated] = useState<CellPlace & { readonly of: unknown }>();
  const offset = reading === 'pages' ? scanned.from : 0;
  // Another page, or another question, begins at its beginning.
  const of = useMemo(() => ({ source, offset }), [source, offset]);
  const active = activated?.of === of ? activated : undefined;
  const setActive = (place: CellPlace): void => setActivated({ ...place, of });
  const count = countOf(reading === 'pages' ? scanned.to - scanned.from : total, open);
  const first = Math.max(0, request.first - margin);
  const end = Math.min(count, request.end + margin);
  useEffect(
    () => source.setVisibleRows(offset + first, offset + end),
    [source, offset, first, end],
  );
  const visibleEnd = Math.min(request.end, count);
  useEffect(
    () => setVisible(offset + request.first, offset + Math.max(request.first, visibleEnd - 1)),
    [setVisible, offset, request.first, visibleEnd],
  );
  const mirrored = messages.direction === 'rtl';
  const scrollTo = useCallback(
    (column: number) => scroller.current?.scrollTo({ left: (mirrored ? -1 : 1) * column * width }),
    [mirrored],
  );
  // The place to begin at is gone to as soon as it is known how long the result is.
  const { place: begun } = view;
  const [start] = useState(reading === 'scroll' && begun?.kind === 'offset' ? begun.offset : 0);
  const shownLast = useRef<unknown>(undefined);
  useEffect(() => {
    if (total === undefined || shownLast.current === of) return;
    scrollTo(shownLast.current === undefined ? start : 0);
    shownLast.current = of;
  }, [of, total, start, scrollTo]);
  const places = Array.from({ length: Math.max(0, end - first) }, (_, index) => first + index);
  const rows = places.map((place) => rowAt(source, offset + place));
  const marks = rows.map((row) => row && editing?.marksOf?.(row));
  const titles = useAnswer(messages.card);
  const sections = useMemo(() => sectionsShown(table, shown), [table, shown]);
  const columns = new Map(drawn.columns.map((column) => [column.name, column]));
  const there = rows.filter((row) => row !== undefined);
  const differs = (name: string): boolean =>
    new Set(there.map((row) => plainText(row[name] ?? null))).size > 1;
  const lines = sections.map((section): Lines => {
    const title =
      'title' in section
        ? section.title
        : titles.state === 'ready'
          ? titles.result.sections[section.kind]
          : messages.loading;
    const names = section.names.filter((name) => !differing || differs(name));
    const key = 'title' in section ? section.title : section.kind;
    return { key, title, names, folded: folded.has(key) };
  });
  const names = lines.flatMap((one) => (one.folded ? [] : one.names));
  const activeName = active && names[active.row];
  const activeIndex = drawn.columns.findIndex(({ name }) => name === activeName);
  const activeCells = useMemo((): CellRange | undefined => {
    if (active === undefined || activeIndex === -1) return undefined;
    const position = offset + active.column;
    return {
      firstRow: position,
      lastRow: position,
      firstColumn: activeIndex,
      lastColumn: activeIndex,
    };
  }, [active, activeIndex, offset]);
  useImperativeHandle(
    handle,
    (): TableHandle => ({
      // Rows are all of one width here.
      naturalWidths: () => Promise.resolve({}),
      cells: () => activeCells,
      goTo: (row, leaveKeyboard = false) => {
        const column = Math.min(Math.max(0, row - offset), count - 1);
        if (leaveKeyboard) reveal(scroller.current, column, mirrored);
        else {
          scrollTo(column);
          scroller.current?.focus({ preventScroll: true });
        }
        setActivated((last) => ({ row: last?.row ?? 0, column, of }));
      },
      move: (down, right) => {
        setActivated((last) => ({
          row: Math.min(Math.max(0, (last?.row ?? 0) + down), names.length - 1),
          column: Math.min(Math.max(0, (last?.column ?? 0) + right), count - 1),
          of,
        }));
        scroller.current?.focus({ preventScroll: true });
      },
      takeKeyboard: () => scroller.current?.focus({ preventScroll: true }),
    }),
    [offset, count, of, mirrored, scrollTo, activeCells, names.length],
  );
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.target !== event.currentTarget) {
      if (event.key === 'Escape') scroller.current?.focus({ preventScroll: true });
      return;
    }
    const to = moved(active ?? { row: 0, column: 0 }, event.key, event.ctrlKey || event.metaKey, {
      firstRow: 0,
      lastRow: names.length - 1,
      lastColumn: count - 1,
      pageRows: 10,
      mirrored,
    });
    if (to !== undefined && count > 0) {
      event.preventDefault();
      const place = active === undefined ? { row: 0, column: request.first } : to;
      setActive(place);
      reveal(scroller.current, place.column, mirrored);
      return;
    }
    const row = active && rowAt(source, offset + active.column);
    if (active === undefined || row === undefined) return;
    const at = { column: names[active.row] ?? '', position: offset + active.column };
    if (onRowKey(event.key, row, event, at)) event.preventDefault();
  };
  const activeId = active && `${id}${active.row}-${active.column}`;
  useEffect(() => {
    if (activeId !== undefined) {
      document.getElementById(activeId)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    }
  }, [activeId]);
  const edited = editing?.edited;
  const none = noteInstead(records, model, instead);
  const template = `${labels}px ${first * width}px repeat(${places.length}, ${width}px)`;
  const all = labels + count * width;
  return (
    <div
      ref={scroller}
      className="eph-across"
      role="grid"
      aria-label={label}
      aria-colcount={open ? -1 : count + 1}
      aria-rowcount={names.length + 1}
      aria-activedescendant={activeId}
      tabIndex={0}
      onKeyDown={onKeyDown}
    >
      {none === undefined ? (
        <>
          <div
            role="row"
            aria-rowindex={1}
            className="eph-across-row eph-across-head"
            style={{ gridTemplateColumns: template, width: all }}
          >
            <div role="columnheader" aria-colindex={1} className="eph-across-label">
              <label>
                <input
                  type="checkbox"
                  checked={differing}
                  onChange={({ target }) => setDiffering(target.checked)}
                />{' '}
                {messages.editors.onlyDifferences}
              </label>
            </div>
            <i role="presentation" />
            {places.map((place, index) => (
              <div
                key={place}
                role="columnheader"
                aria-colindex={place + 2}
                data-position={offset + place}
                className="eph-across-cell"
                data-row-draft={marks[index]?.kind}
                title={marks[index]?.message}
              >
                <Head row={rows[index]} position={offset + place} />
              </div>
            ))}
          </div>
          {lines.map(({ key, title, names: within, folded: shut }) =>
            within.length === 0 ? null : (
              <div key={key} role="rowgroup" aria-label={title} style={{ width: all }}>
                <div role="row" className="eph-across-title">
                  <div role="rowheader">
                    <button
                      type="button"
                      aria-expanded={!shut}
                      onClick={() => setFolded((last) => toggled(last, key))}
                    >
                      {title}
                    </button>
                  </div>
                </div>
                {!shut &&
                  within.map((name) => {
                    const line = names.indexOf(name);
                    const column = columns.get(name);
                    const mark = sort.find((one) => one.column === name);
                    const other = differs(name);
                    return (
                      <div
                        key={name}
                        role="row"
                        aria-rowindex={line + 2}
                        className="eph-across-row"
                        data-differs={other}
                        style={{ gridTemplateColumns: template, width: all }}
                      >
                        <div
                          role="rowheader"
                          aria-colindex={1}
                          // Of no row, as a header.
                          data-position={-1}
                          data-column={name}
                          className="eph-across-label"
                          aria-sort={mark && (mark.descending ? 'descending' : 'ascending')}
                        >
                          <Label
                            column={column}
                            differs={other}
                            sort={(add) => change((last) => sortedBy(last, name, add, table))}
                          />
                          {column?.extra}
                        </div>
                        <i role="presentation" />
                        {places.map((place, index) => (
                          <div
                            key={place}
                            id={
                              active?.row === line && active.column === place ? activeId : undefined
                            }
                            role="gridcell"
                            aria-colindex={place + 2}
                            data-position={offset + place}
                            data-column={name}
                            className="eph-across-cell"
                            {...painted(column, rows[index])}
                            {...markOf(marks[index]?.cells[name])}
                            data-row-draft={marks[index]?.kind}
                            data-active={active?.row === line && active.column === place}
                            aria-busy={rows[index] === undefined}
                            onMouseDown={() => setActive({ row: line, column: place })}
                          >
                            {edited?.column === name && edited.position === offset + place
                              ? edited.content
                              : marked(
                                  renderedValue(column, rows[index]),
                                  marks[index]?.cells[name],
                                )}
                          </div>
                        ))}
                      </div>
                    );
                  })}
              </div>
            ),
          )}
        </>
      ) : (
        <div className="eph-instead">{none}</div>
      )}
    </div>
  );
}

/** Rows side by side; a few while nobody knows how many there are. */
function countOf(total: number | undefined, open: boolean): number {
  return Math.min(most, total === undefined ? unknown : total + (open ? unknown : 0));
}

interface Lines {
  readonly key: string;
  readonly title: string;
  readonly names: readonly string[];
  readonly folded: boolean;
}

function toggled(among: ReadonlySet<string>, one: string): ReadonlySet<string> {
  const next = new Set(among);
  if (!next.delete(one)) next.add(one);
  return next;
}

/** Brings a row's column into view, next to the labels. */
function reveal(element: HTMLElement | null, column: number, mirrored: boolean): void {
  if (element === null) return;
  const at = Math.abs(element.scrollLeft);
  const room = element.clientWidth - labels;
  const to = Math.min(column * width, Math.max(at, (column + 1) * width - room));
  element.scrollTo({ left: mirrored ? -to : to });
}
