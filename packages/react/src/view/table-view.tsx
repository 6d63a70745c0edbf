import type { Row } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import type { ColumnDescription } from '@ephoros/core/schema';
import { sortedBy, type Density, type View, type ViewTexts } from '@ephoros/core/view';
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactElement,
} from 'react';
import type { Messages } from '../messages/messages.ts';
import { english } from '../messages/english.ts';
import { Later, useLater } from '../parts/later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { FootLine } from '../parts/foot-line.tsx';
import { noteInstead } from '../parts/notes.tsx';
import { SentenceLine } from '../parts/sentence-line.tsx';
import type { FullReader } from '../format/value.ts';
import { ModelContext, RecordsContext } from '../parts/table-context.ts';
import { TableFrame } from '../parts/table-frame.tsx';
import { ToolLine } from '../parts/tool-line.tsx';
import {
  ownTimeZone,
  useRecordsOf,
  type Drawn,
  type RecordsOptions,
} from '../records/use-records.ts';
import { RecordTable, type TableHandle } from '../table/record-table.tsx';
import { isOutline, rowAt } from '../table/row-at.ts';
import { VisibleRows } from '../table/visible-rows.ts';
import { useLatest } from '../use-latest.ts';
import { useSteady } from '../use-steady.ts';
import { describedBy, tellMissing, type ColumnDefinition } from './column-definition.ts';
import { type DefinedColumn } from './columns.tsx';
import { KeptOpen, KeptPlace } from './kept.tsx';
import { useColumns } from './use-columns.ts';
import { useTableModel } from './use-model.ts';
import { useViewRuler } from './use-view-ruler.ts';

export interface TableViewProps extends Omit<RecordsOptions, 'columns' | 'described'> {
  /** The columns, in their order; by default all that the table shows. */
  readonly columns?: readonly ColumnDefinition[];
  /** Columns that the rows hold beside those shown, such as for a renderer. */
  readonly extraColumns?: readonly string[];
  /** What the table is called; its title by default. */
  readonly label?: string;
  /** English by default. */
  readonly messages?: Messages;
  /** How numbers and dates are written: BCP 47; that of the messages by default. */
  readonly locale?: string;
  /** Whether the view is said as a sentence above the table; it is by default. */
  readonly sentence?: boolean;
  /** Whether there is a line with the condition as text, the search, the columns; there is by default. */
  readonly tools?: boolean;
  /** Whether there is a field to search by; where the table can be searched, by default. */
  readonly searchable?: boolean;
  /** Whether the strip beside the scroll bar says which values lie where; by default it does, of long results. */
  readonly ruler?: boolean;
  /** Whether rows can be selected; they need a key. */
  readonly selectable?: boolean;
  /** In px, of rows as they are usually set; 34 by default. */
  readonly rowHeight?: number;
  /** What of the view could not be read, and its texts, as `useAddressView` gives them. */
  readonly problems?: readonly Problem[];
  readonly texts?: ViewTexts;
  /** A row was pressed twice, or Enter on it. */
  readonly onActivate?: (row: Row) => void;
  /** The first and the last row (counted from 0) that can be seen, whenever they change. */
  readonly onVisibleRowsChange?: (first: number, last: number) => void;
  /** Rows could not be had. */
  readonly onFailure?: (error: Error) => void;
}

/**
 * A finished table: the sentence that says what is shown and changes it, header, rows or groups,
 * conditions, pages or one long scroll, selection. Styled by `@ephoros/react/table.css`, whose
 * variables a host page sets. Fills the height around it.
 */
export function TableView(props: TableViewProps): ReactElement {
  const { messages = english } = props;
  return (
    <TableFrame messages={messages}>
      <Inside {...props} messages={messages} />
    </TableFrame>
  );
}

/** Loaded with the first grouping that is shown. */
const levels = new Later(() => import('../levels/levels-line.tsx'));

/** Ms without movement after which the rows in view are the window. */
const rest = 150;

/** How much higher or lower than usual a row is, in px. */
const heights: Readonly<Record<Density, number>> = { compact: -8, normal: 0, roomy: 10 };

function Inside(props: TableViewProps & { readonly messages: Messages }): ReactElement {
  const { messages, locale = messages.language, timeZone = ownTimeZone } = props;
  const { reading: usualReading = 'scroll', selectable = false, rowHeight = 34 } = props;
  const { sentence = true, tools = true, extraColumns = [] } = props;
  const definitions = useSteady('columns', props.columns);
  const reader = useMemo<FullReader>(
    () => ({ locale, timeZone, messages }),
    [locale, timeZone, messages],
  );
  const described = useMemo(
    () =>
      props.source === undefined
        ? undefined
        : definitions?.map((one) => describedBy(one, undefined)),
    [props.source, definitions],
  );
  // A list of names is the same however it is made.
  const names = definitions && [...definitions.map(({ name }) => name), ...extraColumns];
  const records = useRecordsOf(
    { ...props, timeZone, reading: usualReading, columns: names, described },
    // The table looks at what is in view.
    false,
  );
  const { view, change, error, status, source, description, selection, reading, total } = records;
  const defined = useDefined(records, definitions);
  const drawn = useColumns({ records, defined, reader, selectable });
  const label = props.label ?? (records.table.title || (props.table ?? ''));
  const model = useTableModel({
    records,
    client: props.client,
    title: label,
    usualReading,
    columns: useAll(records, defined, definitions),
    drawn: drawn.columns,
    shown: drawn.shown,
    pinned: drawn.pinned,
    problems: props.problems,
    texts: props.texts,
    reader,
  });
  const { rows } = records;
  const grouped = isOutline(source);
  useEffect(() => {
    if (!grouped)
      tellMissing(
        defined.map((one) => one.described.name),
        rows,
      );
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
  const scrolled = reading === 'scroll' && !grouped;
  const ruler = useViewRuler({ records, reader, wanted: (props.ruler ?? true) && scrolled });
  const lined = useLater(levels, grouped);
  const handle = useRef<TableHandle>(null);
  const { from } = records.window;
  const { size } = records.pager;
  const range = useMemo(
    () => (scrolled || grouped ? undefined : { from, to: from + size }),
    [scrolled, grouped, from, size],
  );
  const searchable = props.searchable ?? (description?.search.length ?? 0) > 0;
  const height = rowHeight + heights[view.density ?? 'normal'];
  const instead = noteInstead(records, model);
  const told = description !== undefined || props.source !== undefined;
  return (
    <ModelContext.Provider value={model}>
      <RecordsContext.Provider value={records}>
        {told && (sentence || tools) && (
          <div className="eph-top">
            {sentence && <SentenceLine />}
            {tools && <ToolLine searchable={searchable} />}
            {description?.remarks.map((remark) => (
              <p key={remark} className="eph-aside">
                <i>{remark}</i>
              </p>
            ))}
          </div>
        )}
        {grouped && lined.state === 'ready' && (
          <lined.result.LevelsLine source={source} labels={drawn.levels} />
        )}
        {grouped && lined.state === 'failed' && <LoadFailure retry={lined.retry} />}
        <div
          className="eph-middle"
          onDoubleClick={({ target }) => {
            const row = onActivate && rowUnder(target, source);
            if (row !== undefined) onActivate?.(row);
          }}
        >
          <RecordTable
            // Rows of another height begin where the eye was.
            key={height}
            source={source}
            columns={drawn.columns}
            label={label}
            sort={records.sort}
            onSort={(name, add) => change((last) => sortedBy(last, name, add, model.table))}
            onResize={(name, width) =>
              change((last) => ({ ...last, widths: { ...last.widths, [name]: width } }))
            }
            onVisibleRowsChange={setVisible}
            onRowKey={onRowKey}
            instead={instead}
            handle={handle}
            rowHeight={height}
            {...(ruler === undefined ? {} : { ruler })}
            {...(selectable ? { isSelected: selection.has } : {})}
            {...(range === undefined ? { startRow: startOf(view, grouped) } : { range })}
          />
        </div>
        {scrolled && <KeptPlace visible={visible} known={total !== undefined} />}
        {grouped && <KeptOpen source={source} />}
        <FootLine
          visible={visible}
          quiet={instead !== undefined}
          goTo={(row) => handle.current?.goTo(row)}
          sayReading={!sentence}
        />
      </RecordsContext.Provider>
    </ModelContext.Provider>
  );
}

function startOf({ place }: View, grouped: boolean): number {
  return place?.kind === 'offset' && !grouped ? place.offset : 0;
}

function useDefined(
  { columns }: Drawn,
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

/** The columns that can be shown: those defined; else all of the table, and those in view. */
function useAll(
  { description }: Drawn,
  defined: readonly DefinedColumn[],
  definitions: readonly ColumnDefinition[] | undefined,
): readonly ColumnDescription[] {
  return useMemo(() => {
    const own = defined.map(({ described }) => described);
    if (definitions !== undefined || description === undefined) return own;
    const names = new Set(description.columns.map(({ name }) => name));
    return [...description.columns, ...own.filter(({ name }) => !names.has(name))];
  }, [description, defined, definitions]);
}

/** The row that an element lies in. */
function rowUnder(target: EventTarget, source: Drawn['source']): Row | undefined {
  const index = (target as Element).closest('.eph-row')?.getAttribute('aria-rowindex');
  // Counted from 1, behind the header.
  const position = Number(index ?? 0) - 2;
  if (position < 0) return undefined;
  return rowAt(source, position);
}
