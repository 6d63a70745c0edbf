import type {
  AnyTables,
  Change,
  ColumnName,
  NameOf,
  RequestLog,
  SomeOf,
  TableSet,
} from '@ephoros/client';
import type { FilesClient } from '@ephoros/client/files';
import type { Problem } from '@ephoros/core/problem';
import type { Density, ViewTexts } from '@ephoros/core/view';
import {
  useCallback,
  useEffect,
  useImperativeHandle,
  useMemo,
  useRef,
  useState,
  type ReactElement,
  type ReactNode,
  type Ref,
} from 'react';
import type { AddressOf } from '../card/address-of.ts';
import type { OpenedRow } from '../card/opened-row.ts';
import type { FullReader } from '../format/value.ts';
import { english } from '../messages/english.ts';
import type { Messages } from '../messages/messages.ts';
import type { Instead } from '../parts/notes.tsx';
import type { TableAction } from '../parts/selection-line.tsx';
import { ModelContext, RecordsContext } from '../parts/table-context.ts';
import { TableFrame } from '../parts/table-frame.tsx';
import {
  ownTimeZone,
  useRecordsOf,
  type Drawn,
  type RecordsOptions,
} from '../records/use-records.ts';
import type { TableHandle } from '../table/record-table-props.ts';
import { isOutline } from '../table/row-at.ts';
import { VisibleRows } from '../table/visible-rows.ts';
import { useLatest } from '../use-latest.ts';
import { useStable } from '../use-stable.ts';
import { describedBy, reportMissing, type ColumnDefinition } from './column-definition.ts';
import type { RangeRefusal } from '../parts/select-range.ts';
import { SheetContext, type PressedCell, type Sheet } from './sheet-context.ts';
import { useOpened, type OpenedOptions } from './use-opened.ts';
import { EditedParts } from './edited-parts.tsx';
import { useNarrowed } from './use-narrowed.ts';
import { useAll, useDefined } from './use-defined.ts';
import { useColumns } from './use-columns.ts';
import { useNarrow } from './use-narrow.ts';
import { usePaint } from './use-paint.ts';
import { useTableModel } from './use-model.ts';

/** What can be done to a table from outside. */
export interface TableViewHandle extends Pick<TableHandle, 'goTo'> {
  /** Makes columns, or all of them, as wide as what of them is in view; readers' own widths too. */
  readonly fit: (columns?: readonly string[]) => void;
  /** Asks again for what is in view; the place is stored. */
  readonly refresh: () => void;
}

/** What a table is made of, however its parts are put together. */
export interface TableOptions<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
>
  extends Omit<RecordsOptions<Tables, Name>, 'columns' | 'described' | 'selecting'>, OpenedOptions {
  /** The columns, in their order; by default all that the table shows. */
  readonly columns?: readonly ColumnDefinition<Tables[Name]>[];
  /** Columns that the rows hold next to those shown, such as for a renderer. */
  readonly extraColumns?: readonly ColumnName<Tables[Name]>[];
  /** What the table is called; its title by default. */
  readonly label?: string;
  /** English by default. */
  readonly messages?: Messages;
  /** How numbers and dates are written: BCP 47; that of the messages by default. */
  readonly locale?: string;
  /** Whether there is a field to search by; where the table can be searched, by default. */
  readonly searchable?: boolean;
  /** Whether the strip next to the scroll bar says which values lie where; by default it does, of long results. */
  readonly ruler?: boolean;
  /** Whether rows can be selected, or a single one; they need a key. */
  readonly selectable?: boolean | 'single';
  /** What can be done with the selected rows: offered as soon as there are some. */
  readonly actions?: readonly TableAction[];
  /**
   * Whether a row is opened on a card next to the table, by Enter or by what stands at its beginning;
   * or what draws it there. Rows need a key.
   */
  readonly card?: boolean | ((opened: OpenedRow) => ReactNode);
  /** Where the card lies: next to the rows, over their end, by default; or folded out under its row. */
  readonly cardPlace?: 'beside' | 'under';
  /** Whether views can be stored under names and opened again: by a client of a service with records. */
  readonly savedViews?: boolean;
  /** The id of the saved view that is open, where the page keeps that; empty for none. */
  readonly savedView?: string | undefined;
  readonly onSavedViewChange?: (id: string) => void;
  /** Who writes rows as files: they can then be taken out. `filesClient` of `@ephoros/client/files`. */
  readonly files?: FilesClient;
  /** The log of the client: what happened can then be looked at, for developers. */
  readonly requestLog?: RequestLog;
  /** Where the page shows other rows, for links to them; the card itself shows them without. */
  readonly addressOf?: AddressOf;
  /** In px, of rows as they are usually set; 34 by default. */
  readonly rowHeight?: number;
  /** How much room rows take where a view does not say; as usual by default. */
  readonly density?: Density;
  /** Whether the keys that print a page print the whole result, up to 2,000 rows; they do not by default. */
  readonly printable?: boolean;
  /** What of the view could not be read, and its texts, as `useAddressView` gives them. */
  readonly problems?: readonly Problem[];
  readonly texts?: ViewTexts;
  /** Whether columns without a width of their own are as wide as the first rows need. */
  readonly fitted?: boolean;
  /** Classes of a row next to its own, such as of those that want somebody's attention. */
  readonly classOfRow?: (row: SomeOf<Tables[Name]>) => string | undefined;
  /** What stands in place of rows, where the page wants to say it otherwise. */
  readonly instead?: Instead;
  /** A row was pressed once (Enter too, without `onActivate`); not what does something itself. */
  readonly onPress?: (row: SomeOf<Tables[Name]>, at: PressedCell) => void;
  /** A row was pressed twice, or Enter on it. */
  readonly onActivate?: (row: SomeOf<Tables[Name]>) => void;
  /** What waits to be saved, whenever that is something else. */
  readonly onDraftsChange?: (changes: readonly Change[]) => void;
  /** The first and the last row (counted from 0) that can be visible, whenever they change. */
  readonly onVisibleRowsChange?: (first: number, last: number) => void;
  /** What can be done to the table from outside. */
  readonly handle?: Ref<TableViewHandle>;
  /** Rows could not be had. */
  readonly onFailure?: (error: Error) => void;
}

export interface TablePartsProps<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
> extends TableOptions<Tables, Name> {
  /** Parts of the table, from top to bottom, and whatever else stands among them. */
  readonly children: ReactNode;
}

/**
 * A table whose parts are put together by anyone who uses it: `Sentence`, `Tools`, `Levels`, `Rows`,
 * `Foot`. `TableView` has all of them.
 */
export function TableParts<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
>(given: TablePartsProps<Tables, Name>): ReactElement {
  // Types of the tables are a promise of the program's: nothing at run time depends on them.
  const props = given as unknown as TablePartsProps;
  const { messages = english } = props;
  return (
    <TableFrame messages={messages}>
      {/* Another table begins with a view of its own. */}
      <Inside key={props.table} {...props} messages={messages} />
    </TableFrame>
  );
}

const noWidths = {};
const noActions: readonly TableAction[] = [];
const noInstead: Instead = {};

/** Ms between two looks at whether others have written. */
const usualWatch = 15_000;

/** Ms without movement after which the rows in view are the window. */
const rest = 150;

function Inside(props: TablePartsProps & { readonly messages: Messages }): ReactElement {
  const { messages, locale = messages.language, timeZone = ownTimeZone, children } = props;
  const { reading: usualReading = 'scroll', extraColumns = [] } = props;
  const selectable = props.selectable !== undefined && props.selectable !== false;
  const single = props.selectable === 'single';
  const [refusal, setRefusal] = useState<RangeRefusal>();
  const definitions = useStable('columns', props.columns);
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
    {
      ...props,
      timeZone,
      watch: props.watch ?? usualWatch,
      reading: usualReading,
      columns: names,
      described,
      selecting: single ? 'single' : 'several',
    },
    // The table looks at what is in view.
    false,
  );
  const defined = useDefined(records, definitions);
  const [fittedWidths, setFittedWidths] = useState<Readonly<Record<string, number>>>(noWidths);
  const opened = useOpened(props);
  const { card = false, addressOf: givenAddress } = props;
  // Rows without a key have no card, and of a source of one's own nobody can be requested.
  const opens = card !== false && props.client !== undefined && records.table.key.length > 0;
  const paint = usePaint(records);
  const all = useColumns({
    records,
    defined,
    reader,
    selectable,
    openRow: opens ? opened.open : undefined,
    paint,
    fitted: fittedWidths,
  });
  const marker = useRef<HTMLSpanElement>(null);
  const { drawn, cardLines } = useNarrowed(useNarrow(marker), records, all);
  const label = props.label ?? (records.table.title || (props.table ?? ''));
  const handle = useRef<TableHandle>(null);
  const { change } = records;
  const fit = useCallback(
    (names?: readonly string[]) => {
      void handle.current?.naturalWidths().then((natural) => {
        const fitting = Object.entries(natural).filter(
          ([name]) => name !== '' && (names?.includes(name) ?? true),
        );
        change(
          (last) => ({ ...last, widths: { ...last.widths, ...Object.fromEntries(fitting) } }),
          { passing: true },
        );
      });
    },
    [change],
  );
  const model = useTableModel({
    records,
    client: props.client,
    title: label,
    usualReading,
    columns: useAll(records, defined, definitions),
    drawn: drawn.columns,
    fit,
    shown: drawn.shown,
    pins: drawn.pins,
    addable: definitions === undefined,
    problems: props.problems,
    texts: props.texts,
    density: props.density ?? 'normal',
    reader,
  });
  const { rows, source, error, status } = records;
  const grouped = isOutline(source);
  useEffect(() => {
    if (grouped) return;
    const shown = defined.map((one) => one.described.name);
    reportMissing(shown, rows);
  });
  const onFailure = useLatest(props.onFailure);
  useEffect(() => {
    if (error !== undefined && status === 'failed') onFailure(error);
  }, [error, status, onFailure]);
  const [visible] = useState(() => new VisibleRows());
  const { refresh } = records;
  useImperativeHandle(
    props.handle,
    () => ({ goTo: (row) => handle.current?.goTo(row), refresh, fit }),
    [refresh, fit],
  );
  const unfitted =
    props.fitted === true &&
    cardLines === undefined &&
    status === 'ready' &&
    records.total !== 0 &&
    drawn.shown.some((name) => fittedWidths[name] === undefined);
  useEffect(() => {
    if (!unfitted) return;
    const usual = drawn.columns.map(({ name, width }) => [name, width] as const);
    void handle.current?.naturalWidths().then((natural) => {
      setFittedWidths((last) => ({ ...Object.fromEntries(usual), ...natural, ...last }));
    });
  }, [unfitted, drawn.columns]);
  const { rowHeight = 34, ruler = true, searchable, onActivate, onPress, classOfRow } = props;
  const { editable, savedViews = false, client } = props;
  const [happens, setHappens] = useState(false);
  const [ownSavedView, setOwnSavedView] = useState<string>();
  const reportSavedView = useLatest(props.onSavedViewChange);
  const setKept = useCallback(
    (id: string) => {
      setOwnSavedView(id);
      reportSavedView(id);
    },
    [reportSavedView],
  );
  const editors = useMemo(
    () =>
      new Map(
        definitions?.flatMap(({ name, editor }) => (editor === undefined ? [] : [[name, editor]])),
      ),
    [definitions],
  );
  const sheet: Sheet = {
    drawn,
    cardLines,
    allColumns: all.columns,
    paint,
    printable: props.printable === true,
    saving: (typeof editable === 'object' ? editable.saving : undefined) ?? 'together',
    editors,
    visible,
    setVisible: useVisible(visible, records, props.onVisibleRowsChange),
    handle,
    label,
    rowHeight,
    selectable,
    single,
    actions: props.actions ?? noActions,
    refusal,
    setRefusal,
    ruler,
    searchable,
    onActivate,
    onPress,
    classOfRow,
    card: opens && card,
    cardPlace: props.cardPlace ?? 'beside',
    opened,
    addressOf: givenAddress,
    client,
    files: props.files,
    requestLog: props.requestLog && { log: props.requestLog, open: happens, setOpen: setHappens },
    savedViews:
      savedViews && client?.views !== undefined
        ? { client: client.views, open: props.savedView ?? ownSavedView, setOpen: setKept }
        : undefined,
    instead: props.instead ?? noInstead,
    // Until a table is described there is nothing to say of it.
    known: records.description !== undefined || props.source !== undefined,
  };
  return (
    <ModelContext.Provider value={model}>
      <RecordsContext.Provider value={records}>
        <SheetContext.Provider value={sheet}>
          <span ref={marker} hidden />
          <EditedParts onDraftsChange={props.onDraftsChange}>{children}</EditedParts>
        </SheetContext.Provider>
      </RecordsContext.Provider>
    </ModelContext.Provider>
  );
}

/** Shows which rows are in view, and has them as the window once they rest. */
function useVisible(
  visible: VisibleRows,
  { setVisibleRows }: Drawn,
  notify: TableOptions['onVisibleRowsChange'],
): Sheet['setVisible'] {
  const onVisibleRowsChange = useLatest(notify);
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(resting.current), []);
  return useCallback(
    (first: number, last: number) => {
      visible.set(first, last);
      onVisibleRowsChange(first, last);
      // While rows pass by, nothing but them is drawn.
      clearTimeout(resting.current);
      resting.current = setTimeout(() => setVisibleRows(first, last + 1), rest);
    },
    [visible, onVisibleRowsChange, setVisibleRows],
  );
}
