import type { SentenceMessages } from './sentence-messages.ts';

/** Everything that a table says, in one language. Numbers come written for the reader. */
export interface Messages {
  /** BCP 47. */
  readonly language: string;
  readonly direction: 'ltr' | 'rtl';

  /** Values that are no text of their own. */
  readonly missing: string;
  readonly yes: string;
  readonly no: string;
  readonly emptyText: string;
  readonly emptyList: string;

  readonly sentence: SentenceMessages;

  /** Header and columns. */
  readonly sortHint: (label: string) => string;
  readonly sortAscending: string;
  readonly sortDescending: string;
  readonly sortNot: string;
  readonly about: (label: string) => string;
  readonly columns: string;
  readonly pin: string;
  readonly unpin: string;
  readonly hide: string;
  readonly earlier: string;
  readonly later: string;
  readonly width: string;

  /** Conditions on a column. */
  readonly search: string;
  readonly condition: string;
  readonly contains: string;
  readonly equals: string;
  readonly from: string;
  readonly to: string;
  readonly anyValue: string;
  readonly onlyMissing: string;
  readonly notMissing: string;
  readonly otherCondition: string;
  readonly apply: string;
  readonly clear: string;

  /** Groups. */
  readonly open: string;
  readonly close: string;
  readonly emptyGroup: string;

  /** Instead of rows, and below them. */
  readonly loading: string;
  readonly noRows: string;
  readonly nothingMatches: string;
  readonly failed: (reason: string) => string;
  readonly away: string;
  readonly tryAgain: string;
  readonly row: (number: string) => string;
  /** `total` is undefined where nobody counts. */
  readonly rows: (first: string, last: string, total: string | undefined) => string;
  /** Of groups and the rows in those that are open. */
  readonly lines: (first: string, last: string, total: string | undefined) => string;
  readonly nearly: (total: string) => string;
  /** Results up to so many rows are sorted and filtered here. */
  readonly kept: (maxRows: string) => string;

  /** The strip beside the scroll bar. */
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
  readonly pageSize: string;

  /** Selection. */
  readonly selectRow: string;
  readonly selectWindow: string;
  readonly selected: (count: number, written: string) => string;
  readonly clearSelection: string;
}
