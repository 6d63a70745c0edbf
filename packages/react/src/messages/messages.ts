import type { AggregateName } from '@ephoros/core/schema';
import type { BuilderMessages } from './builder-messages.ts';
import type { ChartMessages } from './chart-messages.ts';
import type { EditorMessages } from './editor-messages.ts';
import type { EditingMessages } from './editing-messages.ts';
import type { RequestLogMessages } from './request-log-messages.ts';
import type { CardMessages } from './card-messages.ts';
import type { SavedViewMessages } from './saved-view-messages.ts';
import type { LayoutMessages } from './layout-messages.ts';
import type { ScanMessages } from './scan-messages.ts';
import type { PrintMessages } from './print-messages.ts';
import type { MenuMessages } from './menu-messages.ts';
import type { SentenceMessages } from './sentence-messages.ts';
import type { ExportMessages } from './export-messages.ts';

/** Everything that a table says, in one language. Numbers come written for the reader. */
export interface Messages {
  /** BCP 47. */
  readonly language: string;
  readonly direction: 'ltr' | 'rtl';

  /** What the service says of an error or a failure, in this language. */
  readonly translate: (text: string) => string;

  /** Values that are no text of their own. */
  readonly missing: string;
  readonly yes: string;
  readonly no: string;
  readonly emptyText: string;
  readonly emptyList: string;

  readonly sentence: SentenceMessages;
  readonly editors: EditorMessages;
  /** The sheet of keys and menus. */
  readonly keys: string;
  /** The column before the rows, of boxes and of what opens rows. */
  readonly margin: string;
  /** Opens a row on its card. */
  readonly openRow: string;
  /** What is stated by parts that are loaded when they are first needed is loaded with them. */
  readonly card: () => Promise<CardMessages>;
  readonly menu: () => Promise<MenuMessages>;
  readonly editing: () => Promise<EditingMessages>;
  /** Views that are stored under names. */
  readonly views: string;
  readonly savedViews: () => Promise<SavedViewMessages>;
  /** The explanation of a condition that no reader can remove. */
  readonly fixedCondition: string;
  /** The builder of conditions. */
  readonly build: string;
  readonly builder: () => Promise<BuilderMessages>;
  /** Charts of what is shown. */
  readonly chart: string;
  readonly charts: () => Promise<ChartMessages>;
  readonly printing: () => Promise<PrintMessages>;
  readonly scanMessages: () => Promise<ScanMessages>;
  /** Rows as files. */
  readonly exportLabel: string;
  readonly exportMessages: () => Promise<ExportMessages>;
  /** How rows and columns are set and painted. */
  readonly appearance: string;
  readonly layout: () => Promise<LayoutMessages>;
  /** The requests of the page. */
  readonly requestLog: string;
  readonly requestLogMessages: () => Promise<RequestLogMessages>;

  /** Header and columns. */
  readonly sortHint: (label: string) => string;
  /** Ascending and descending, in the words of a type. */
  readonly sortWays: Readonly<
    Record<'text' | 'time' | 'number' | 'other', readonly [string, string]>
  >;
  readonly sortNot: string;
  readonly columns: string;
  readonly pin: string;
  readonly pinEnd: string;
  readonly unpin: string;
  readonly hide: string;
  readonly earlier: string;
  readonly later: string;
  readonly width: string;
  /** Makes a column as wide as its content. */
  readonly fit: string;

  /** The line below the sentence. */
  readonly where: string;
  readonly search: string;
  readonly apply: string;
  readonly clear: string;
  readonly conditionOn: (label: string) => string;

  /** Groups. */
  readonly open: string;
  readonly close: string;
  readonly emptyGroup: string;
  readonly all: string;
  readonly rowsIn: (count: string) => string;
  readonly groupedBy: string;
  readonly levels: string;
  readonly levelPlace: (label: string, level: number, levels: number) => string;
  readonly levelHint: string;
  readonly levelMoved: (label: string, level: number, levels: number) => string;
  readonly dropLevel: (label: string) => string;
  readonly openLevel: string;
  readonly closeAll: string;
  /** Before what is made of a group, as short as can be. */
  readonly signs: Readonly<Record<AggregateName, string>>;
  /** Parts of dates that have no name of their own. */
  readonly quarter: (quarter: number, year: number | undefined) => string;
  readonly week: (week: number) => string;
  readonly weekOf: (day: string) => string;

  /** Asks again for what is in view. */
  readonly refresh: string;

  /** Instead of rows, and below them. */
  readonly loading: string;
  readonly noRows: string;
  readonly noLines: string;
  readonly emptyTable: (title: string) => string;
  readonly nothingWritten: string;
  readonly nothingMatches: string;
  readonly conditionsLeaveNone: string;
  readonly dropConditions: string;
  readonly refused: string;
  readonly conditionRefused: string;
  readonly leaveOut: string;
  readonly notShown: string;
  readonly someNotShown: string;
  readonly request: (id: string) => string;
  readonly tryAgain: string;
  readonly tryNow: string;
  /** `seconds` is undefined as soon as it is being tried. */
  readonly tryingAgain: (seconds: number | undefined) => string;
  readonly row: (number: string) => string;
  /** `total` is undefined where nobody counts. */
  readonly rows: (first: string, last: string, total: string | undefined) => string;
  /** Where nobody has counted, and there is no last row. */
  readonly moreToCome: string;
  /** Of groups and the rows in those that are open. */
  readonly lines: (first: string, last: string, total: string | undefined) => string;
  readonly nearly: (total: string) => string;
  /** Results up to so many rows are sorted and filtered here. */
  readonly inMemory: (maxRows: string) => string;

  /** The strip next to the scroll bar. */
  readonly noValue: string;
  readonly without: (label: string) => string;
  readonly unreadable: (label: string) => string;
  /** How far it is; slow where no index leads with the column. */
  readonly reading: (label: string, percent: number | undefined, indexed: boolean) => string;

  /** Pages. */
  readonly pages: string;
  readonly firstPage: string;
  readonly previousPage: string;
  readonly nextPage: string;
  readonly lastPage: string;
  readonly page: (page: string, count: string | undefined) => string;
  /** The pages before the set of numbers, and behind it. */
  readonly earlierPages: string;
  readonly laterPages: string;
  readonly toPage: string;
  readonly toRow: string;
  readonly readingPages: (size: string) => string;
  readonly readingScroll: string;
  readonly readingMore: (size: string) => string;
  /** All rows on one page, so many. */
  readonly readingAll: (count: string) => string;
  /** Asks for as many rows more. */
  readonly moreRows: (size: string) => string;
  /** Back to the first rows, requested again. */
  readonly backToStart: string;
  /** Others have written since that time of day. */
  readonly changedSince: (time: string) => string;
  readonly showChanged: string;
  /** Behind how the rows are read, where they are not counted exactly. */
  readonly notCounted: Readonly<Record<'estimate' | 'none', string>>;

  /** Selection. */
  readonly selectRow: string;
  readonly selectWindow: string;
  readonly selectGroup: string;
  /** So many rows of a table are selected. */
  readonly selectedOf: (count: number, written: string, table: string) => string;
  /** The selection is of another condition than the one in force. */
  readonly underOtherFilter: string;
  /** Why a row was not added to rows that a search found. */
  readonly searchNotCombined: string;
  readonly onlyThese: string;
  /** Selects all rows that match, so many. */
  readonly selectAll: (written: string) => string;
  /** More rows are named by their keys than one question has room for. */
  readonly tooManyKeys: (most: string) => string;
  readonly doneOf: (done: string, of: string) => string;
  /** Of the selected rows so many are not there any more. */
  readonly goneRows: (count: number, written: string) => string;
  readonly clearSelection: string;
}
