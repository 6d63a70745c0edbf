/** What is stated about what takes long, in one language. */
export interface ScanMessages {
  /** A row that is not there yet; `percent` is undefined where nobody can tell. */
  readonly finding: (row: string, percent: string | undefined) => string;
  /** The lines of an outline, in the same way. */
  readonly grouping: (percent: string | undefined) => string;
  /** So many were found in so many rows of so many. */
  readonly found: (found: string, rows: string, of: string) => string;
  readonly nothingYet: string;
  readonly stop: string;
  readonly goOn: string;
  readonly stopped: string;
}
