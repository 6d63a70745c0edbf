import { printParameters, type Row, type WrittenQuery } from '@ephoros/client';
import { matchPart } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactElement,
  type ReactNode,
} from 'react';
import type { Reader } from '../format/value.ts';
import { useLatest } from '../use-latest.ts';
import { useRecordsOf, type Records, type RecordsOptions } from '../records/use-records.ts';
import { nextSort, type TableState } from '../state/table-state.ts';
import { rulerTicks, useRuler } from '../ruler/use-ruler.ts';
import type { RulerContent } from '../ruler/ruler.tsx';
import { RecordTable } from '../table/record-table.tsx';
import { isOutline, rowAt } from '../table/row-at.ts';
import { VisibleRows } from '../table/visible-rows.ts';
import { useSame } from '../use-same.ts';
import { useSteady } from '../use-steady.ts';
import { english } from '../messages/english.ts';
import { MessagesContext } from '../messages/use-messages.ts';
import type { Messages } from '../messages/messages.ts';
import { Boundary } from './boundary.tsx';
import { describedBy, tellMissing, type ColumnDefinition } from './column-definition.ts';
import { ColumnSheet } from './column-sheet.tsx';
import {
  groupColumns,
  inView,
  selectionColumn,
  tableColumn,
  type DefinedColumn,
} from './columns.tsx';
import { FootLine } from './foot-line.tsx';
import { Popover } from './popover.tsx';
import { ToolLine } from './tool-line.tsx';

export interface TableViewProps extends Omit<RecordsOptions, 'columns' | 'described'> {
  /** The columns, in their order; by default all that the table shows. */
  readonly columns?: readonly ColumnDefinition[];
  /** Columns that the rows hold beside those shown, such as for a renderer. */
  readonly extraColumns?: readonly string[];
  /** What screen readers call the table; its title by default. */
  readonly label?: string;
  /** English by default. */
  readonly messages?: Messages;
  /** How numbers and dates are written: BCP 47; that of the messages by default. */
  readonly locale?: string;
  /** IANA; the browser's by default. */
  readonly timeZone?: string;
  /** Whether there is a field to search by; where the table can be searched, by default. */
  readonly searchable?: boolean;
  /** Whether the strip beside the scroll bar says which values lie where; by default it does, of long results. */
  readonly ruler?: boolean;
  /** Whether rows can be selected; they need a key. */
  readonly selectable?: boolean;
  /** In px; 34 by default. */
  readonly rowHeight?: number;
  /** A row was pressed twice, or Enter on it. */
  readonly onActivate?: (row: Row) => void;
  /** The first and the last row (counted from 0) that can be seen, whenever they change. */
  readonly onVisibleRowsChange?: (first: number, last: number) => void;
  /** Rows could not be had. */
  readonly onFailure?: (error: Error) => void;
}

/**
 * A finished table: header, rows, search, conditions, pages or one long scroll, selection. Styled
 * by `@ephoros/react/table.css`, whose variables a host page sets. Fills the height around it.
 */
export function TableView(props: TableViewProps): ReactElement {
  const { messages = english } = props;
  return (
    <MessagesContext.Provider value={messages}>
      <div className="eph-view" dir={messages.direction} lang={messages.language}>
        <Boundary
          instead={(error, again) => (
            <div role="alert" className="eph-instead">
              <p>{messages.failed(error.message)}</p>
              <button type="button" onClick={again}>
                {messages.tryAgain}
              </button>
            </div>
          )}
        >
          <Inside {...props} messages={messages} />
        </Boundary>
      </div>
    </MessagesContext.Provider>
  );
}

/** Ms without movement after which the rows in view are the window. */
const rest = 150;

function Inside(props: TableViewProps & { readonly messages: Messages }): ReactElement {
  const {
    messages,
    locale = messages.language,
    reading = 'scroll',
    selectable = false,
    rowHeight,
  } = props;
  const { timeZone = Intl.DateTimeFormat().resolvedOptions().timeZone, extraColumns = [] } = props;
  const definitions = useSteady('columns', props.columns);
  const reader = useMemo<Reader>(
    () => ({ locale, timeZone, messages }),
    [locale, timeZone, messages],
  );
  // A list of names is the same however it is made.
  const names = definitions && [...definitions.map(({ name }) => name), ...extraColumns];
  const described = useMemo(
    () =>
      props.source === undefined
        ? undefined
        : definitions?.map((one) => describedBy(one, undefined)),
    [props.source, definitions],
  );
  const [begin] = useState(() => beginning(definitions, props.defaultState));
  const records = useRecordsOf(
    { ...props, timeZone, reading, columns: names, described, defaultState: begin },
    // The table looks at what is in view.
    false,
  );
  const { state, change, error, status, source, description, selection } = records;
  const defined = useDefined(records, definitions);
  const grouped = isOutline(source);
  const meta = grouped ? source.describe() : undefined;

  const { has, toggle, inWindow, toggleWindow } = selection;
  const columns = useMemo(() => {
    const shown = inView(defined, state);
    const shownNames = shown.map(({ described: { name } }) => name);
    const own = shown.map((one) => {
      const { described: column } = one;
      const draft = tableColumn(one, state, reader, null);
      const sheet = (
        <Popover
          mark={state.conditions[column.name] === undefined ? '○' : '●'}
          label={messages.about(column.label)}
          marked={state.conditions[column.name] !== undefined}
        >
          {(close) => (
            <ColumnSheet
              column={column}
              shown={draft}
              state={state}
              change={change}
              names={shownNames}
              close={close}
            />
          )}
        </Popover>
      );
      return { ...draft, extra: sheet };
    });
    const boxes =
      selectable && !grouped
        ? [selectionColumn({ has, toggle, inWindow, toggleWindow }, messages)]
        : [];
    // A level that is a column is called as that is.
    const levels = (meta?.levels ?? []).map(
      (level): ResultColumn =>
        defined.find(({ described: { name } }) => name === level.name)?.described ?? level,
    );
    const outline = meta === undefined ? [] : groupColumns(levels, meta.aggregates, reader);
    return [...boxes, ...outline, ...own];
  }, [
    defined,
    state,
    reader,
    messages,
    selectable,
    grouped,
    meta,
    change,
    has,
    toggle,
    inWindow,
    toggleWindow,
  ]);

  const { rows } = records;
  useEffect(() => {
    if (grouped) return;
    const names = defined.map(({ described: { name } }) => name);
    tellMissing(names, rows);
  });
  const { onActivate } = props;
  const onFailure = useLatest(props.onFailure);
  const onVisibleRowsChange = useLatest(props.onVisibleRowsChange);
  useEffect(() => {
    if (error !== undefined && status === 'failed') onFailure(error);
  }, [error, status, onFailure]);
  const [visible] = useState(() => new VisibleRows());
  const { setVisibleRows } = records;
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(resting.current), []);
  const setVisible = useCallback(
    (first: number, last: number) => {
      visible.set(first, last);
      onVisibleRowsChange(first, last);
      // While rows pass by, nothing but them is drawn.
      clearTimeout(resting.current);
      resting.current = setTimeout(() => setVisibleRows(first, last + 1), rest);
    },
    [visible, onVisibleRowsChange, setVisibleRows],
  );
  const onRowKey = (key: string, row: Row, event: KeyboardEvent): boolean => {
    if (selectable && key === ' ') selection.toggle(row);
    else if (selectable && key === 'a' && (event.ctrlKey || event.metaKey))
      selection.toggleWindow();
    else if (key === 'Enter' && onActivate !== undefined) onActivate(row);
    else return false;
    return true;
  };
  const { pager } = records;
  const ruler = useViewRuler(props, records, reading === 'scroll' && !grouped, reader);
  const from = (pager.page - 1) * pager.size;
  const range = reading === 'pages' ? { from, to: from + pager.size } : undefined;
  const searchable = props.searchable ?? (description?.search.length ?? 0) > 0;
  const label = props.label ?? description?.title ?? props.table ?? '';
  return (
    <>
      <ToolLine records={records} searchable={searchable} columns={defined} />
      <div
        className="eph-middle"
        onDoubleClick={({ target }) => {
          const row = onActivate && rowUnder(target, source);
          if (row !== undefined) onActivate?.(row);
        }}
      >
        <RecordTable
          key={`${records.pager.size} ${reading}`}
          source={source}
          columns={columns}
          label={label}
          sort={records.sort}
          onSort={(name, add) => change((last) => ({ sort: nextSort(last.sort, name, add) }))}
          onResize={(name, width) =>
            change(({ widths }) => ({ widths: { ...widths, [name]: width } }))
          }
          onVisibleRowsChange={setVisible}
          onRowKey={onRowKey}
          instead={insteadOf(records, messages)}
          {...(ruler === undefined ? {} : { ruler })}
          {...(selectable ? { isSelected: selection.has } : {})}
          {...(rowHeight === undefined ? {} : { rowHeight })}
          {...(range === undefined ? {} : { range })}
        />
      </div>
      <FootLine records={records} visible={visible} paged={reading === 'pages'} locale={locale} />
    </>
  );
}

/** Rows from which on the strip beside the scroll bar is worth its room. */
const longResult = 500;

/** The ruler of a long scroll over a table with a key. */
function useViewRuler(
  { client, table = '', ruler = true }: TableViewProps,
  { query, description, columns, total = 0, open }: Records,
  scrolled: boolean,
  reader: Reader,
): RulerContent | undefined {
  const { sort, nulls } = query;
  const leading =
    sort?.[0]?.column.name ?? description?.defaultSort[0]?.column ?? description?.key[0];
  const all = [...columns, ...(description?.columns ?? [])];
  const column = all.find(({ name }) => name === leading);
  const keyed = description !== undefined && description.key.length > 0;
  const wanted = ruler && scrolled && keyed && !open && total >= longResult;
  const about: WrittenQuery = {
    ...matchPart(query),
    ...(sort && { sort }),
    ...(nulls && { nulls }),
  };
  const asked = useSame(about, JSON.stringify(printParameters(about)));
  const ask = useCallback(
    async (signal: AbortSignal) => {
      if (client?.mileposts === undefined) throw new Error('this client has no mileposts');
      return client.mileposts(table, asked, rulerTicks, signal);
    },
    [client, table, asked],
  );
  const told = wanted && client?.mileposts !== undefined;
  return useRuler(told ? ask : undefined, column, total, reader);
}

/** What the definitions say that readers can change. */
function beginning(
  definitions: readonly ColumnDefinition[] | undefined,
  given: Partial<TableState> | undefined,
): Partial<TableState> {
  const named = (test: (one: ColumnDefinition) => boolean | undefined): readonly string[] =>
    (definitions ?? []).filter((one) => test(one) === true).map(({ name }) => name);
  return {
    pinned: named(({ pinned }) => pinned),
    hidden: named(({ hidden }) => hidden),
    ...given,
  };
}

function useDefined(
  { columns }: Records,
  definitions: readonly ColumnDefinition[] | undefined,
): readonly DefinedColumn[] {
  return useMemo(() => {
    if (definitions === undefined) {
      return columns.map((described) => ({ definition: { name: described.name }, described }));
    }
    return definitions.flatMap((definition) => {
      const described = columns.find(({ name }) => name === definition.name);
      return described === undefined
        ? []
        : [{ definition, described: describedBy(definition, described) }];
    });
  }, [columns, definitions]);
}

function insteadOf({ total, error, status, query, retry }: Records, messages: Messages): ReactNode {
  if (total === undefined && error !== undefined) {
    return (
      <div role="alert">
        <p>{status === 'retrying' ? messages.away : messages.failed(error.message)}</p>
        <button type="button" onClick={retry}>
          {messages.tryAgain}
        </button>
      </div>
    );
  }
  if (total !== 0) return undefined;
  const narrowed = query.filter !== undefined || query.search !== undefined;
  return <p>{narrowed ? messages.nothingMatches : messages.noRows}</p>;
}

/** The row that an element lies in. */
function rowUnder(target: EventTarget, source: Records['source']): Row | undefined {
  const index = (target as Element).closest('.eph-row')?.getAttribute('aria-rowindex');
  // Counted from 1, behind the header.
  const position = Number(index ?? 0) - 2;
  if (position < 0) return undefined;
  return rowAt(source, position);
}
