import type { Row } from '@ephoros/client';
import { sectionsOf, type Section, type TableDescription } from '@ephoros/core/schema';
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
  type ReactNode,
} from 'react';
import { plainText } from '../format/value.ts';
import { noteInstead } from '../parts/notes.tsx';
import { RowBox } from '../parts/row-box.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { moved, type CellPlace } from '../table/movement.ts';
import type { TableColumn } from '../table/column.ts';
import type { TableHandle } from '../table/record-table.tsx';
import { rowAt } from '../table/row-at.ts';
import { useSheet } from './sheet-context.ts';

/** Px of one row's column, and of the labels. */
const width = 230;
const labels = 190;
/** Rows beyond those in view that stand in the page, on either side. */
const margin = 2;
/** Rows that are held out while nobody has counted. */
const unknown = 20;
/** Rows that a page of a browser has room for side by side. */
const most = 100_000;

/** The table lying on its side: its columns down the page in sections, its rows side by side. */
export function Across(): ReactElement {
  const { setVisible, label, instead, drawn, handle } = useSheet();
  const model = useModel();
  const records = useRowsOf();
  const { source, window: looked, reading, total, open, sort, view, change } = records;
  const { table, shown, reader } = model;
  const { messages } = reader;
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  const [seen, setSeen] = useState({ first: 0, end: 4 });
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const [differing, setDiffering] = useState(false);
  const [activated, setActivated] = useState<CellPlace & { readonly of: unknown }>();
  const offset = reading === 'pages' ? looked.from : 0;
  // Another page, or another question, begins at its beginning.
  const of = useMemo(() => ({ source, offset }), [source, offset]);
  const active = activated?.of === of ? activated : undefined;
  const setActive = (place: CellPlace): void => setActivated({ ...place, of });
  const count = countOf(reading === 'pages' ? looked.to - looked.from : total, open);
  const first = Math.max(0, seen.first - margin);
  const end = Math.min(count, seen.end + margin);
  useEffect(
    () => source.setVisibleRows(offset + first, offset + end),
    [source, offset, first, end],
  );
  const seenEnd = Math.min(seen.end, count);
  useEffect(
    () => setVisible(offset + seen.first, offset + Math.max(seen.first, seenEnd - 1)),
    [setVisible, offset, seen.first, seenEnd],
  );
  useEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const look = (): void => {
      const at = Math.abs(element.scrollLeft);
      const room = Math.max(0, element.clientWidth - labels);
      const next = { first: Math.floor(at / width), end: Math.ceil((at + room) / width) };
      setSeen((last) => (last.first === next.first && last.end === next.end ? last : next));
    };
    look();
    const observer = new ResizeObserver(look);
    observer.observe(element);
    element.addEventListener('scroll', look);
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', look);
    };
  }, []);
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
  useImperativeHandle(
    handle,
    (): TableHandle => ({
      // Rows are all of one width here, and no cells are marked.
      naturalWidths: () => Promise.resolve({}),
      cells: () => undefined,
      goTo: (row, leaveKeyboard = false) => {
        const column = Math.min(Math.max(0, row - offset), count - 1);
        if (leaveKeyboard) reveal(scroller.current, column, mirrored);
        else {
          scrollTo(column);
          scroller.current?.focus({ preventScroll: true });
        }
        setActivated((last) => ({ row: last?.row ?? 0, column, of }));
      },
      takeKeyboard: () => scroller.current?.focus({ preventScroll: true }),
    }),
    [offset, count, of, mirrored, scrollTo],
  );
  const places = Array.from({ length: Math.max(0, end - first) }, (_, index) => first + index);
  const rows = places.map((place) => rowAt(source, offset + place));
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
          : '';
    const names = section.names.filter((name) => !differing || differs(name));
    const key = 'title' in section ? section.title : section.kind;
    return { key, title, names, folded: folded.has(key) };
  });
  const names = lines.flatMap((one) => (one.folded ? [] : one.names));
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
      const place = active === undefined ? { row: 0, column: seen.first } : to;
      setActive(place);
      reveal(scroller.current, place.column, mirrored);
      return;
    }
    const row = active && rowAt(source, offset + active.column);
    if (active === undefined || row === undefined) return;
    if (deed(event.key, row, offset + active.column)) event.preventDefault();
  };
  const { selection } = records;
  const { selectable, card, opened, onActivate } = useSheet();
  const deed = (key: string, row: Row, position: number): boolean => {
    const own = selection.keyOf(row);
    if (key === ' ' && selectable) selection.toggle(row);
    else if (key === 'Enter' && onActivate !== undefined) onActivate(row);
    else if (key === 'Enter' && card !== false && own !== undefined) opened.open(own, position);
    else return false;
    return true;
  };
  const activeId = active && `${id}${active.row}-${active.column}`;
  useEffect(() => {
    if (activeId !== undefined) {
      document.getElementById(activeId)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    }
  }, [activeId]);
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
                className="eph-across-cell"
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
                            className="eph-across-cell"
                            data-active={active?.row === line && active.column === place}
                            aria-busy={rows[index] === undefined}
                            onMouseDown={() => setActive({ row: line, column: place })}
                          >
                            {drawnValue(column, rows[index])}
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

type ShownSection = { readonly names: readonly string[] } & (
  | { readonly title: string }
  | { readonly kind: 'itself' | 'references' | 'amounts' | 'times' | 'more' }
);

/** The shown columns in their sections; what lies in other tables comes last. */
function sectionsShown(table: TableDescription, shown: readonly string[]): readonly ShownSection[] {
  const sections = sectionsOf(table).map((section: Section): ShownSection => {
    const names = section.columns.flatMap(({ name, shownAs }) =>
      [shownAs, name].filter((one): one is string => one !== undefined && shown.includes(one)),
    );
    return 'kind' in section ? { kind: section.kind, names } : { title: section.title, names };
  });
  const placed = new Set(sections.flatMap(({ names }) => names));
  const left = shown.filter((name) => !placed.has(name));
  const more = sections.find((section) => 'kind' in section && section.kind === 'more');
  const others = sections.filter((section) => section !== more);
  return [...others, { kind: 'more', names: [...(more?.names ?? []), ...left] }];
}

function toggled(among: ReadonlySet<string>, one: string): ReadonlySet<string> {
  const next = new Set(among);
  if (!next.delete(one)) next.add(one);
  return next;
}

function drawnValue(column: TableColumn | undefined, row: Row | undefined): ReactNode {
  if (row === undefined) return <i className="eph-placeholder" />;
  const value = row[column?.name ?? ''] ?? null;
  return column?.render === undefined ? plainText(value) : column.render(value, row);
}

/** Brings a row's column into view, beside the labels. */
function reveal(element: HTMLElement | null, column: number, mirrored: boolean): void {
  if (element === null) return;
  const at = Math.abs(element.scrollLeft);
  const room = element.clientWidth - labels;
  const to = Math.min(column * width, Math.max(at, (column + 1) * width - room));
  element.scrollTo({ left: mirrored ? -to : to });
}

interface LabelProps {
  readonly column: TableColumn | undefined;
  readonly differs: boolean;
  readonly sort: (add: boolean) => void;
}

/** What a column is called; pressed, it sorts by it. */
function Label({ column, differs, sort }: LabelProps): ReactElement {
  const { messages } = useModel().reader;
  const text = column?.label ?? '';
  const name = differs ? messages.editors.differs(text) : undefined;
  return column?.sortable === true ? (
    <button
      type="button"
      title={messages.sortHint(text)}
      aria-label={name}
      onClick={(event) => sort(event.shiftKey)}
    >
      {text}
    </button>
  ) : (
    <span aria-label={name}>{text}</span>
  );
}

/** What stands over a row: its box, its name, what opens it. */
function Head({
  row,
  position,
}: {
  readonly row: Row | undefined;
  readonly position: number;
}): ReactElement {
  const { selectable, card, opened } = useSheet();
  const { selection } = useRowsOf();
  const { table, reader } = useModel();
  const { messages } = reader;
  const written = (position + 1).toLocaleString(reader.locale);
  if (row === undefined) return <span className="eph-aside">{written}</span>;
  const key = selection.keyOf(row);
  const label = table.label === undefined ? undefined : row[table.label];
  const called = label == null ? messages.row(written) : plainText(label);
  return (
    <>
      {selectable && (
        <RowBox
          label={messages.selectRow}
          checked={selection.has(row)}
          change={() => selection.toggle(row)}
          single={!selection.several}
        />
      )}
      {card !== false && key !== undefined ? (
        <button type="button" className="eph-related" onClick={() => opened.open(key, position)}>
          {called}
        </button>
      ) : (
        <span>{called}</span>
      )}
    </>
  );
}
