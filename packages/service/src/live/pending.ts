import type { Notice } from './notice.ts';

/** What was done to a row. */
export interface RowEvent {
  readonly did: Notice['did'];
  /** The row as it was before, as JSON; undefined where that is not known, or it was not there. */
  readonly before?: string;
  /** The columns that got other values; undefined where they are not known. */
  readonly columns?: ReadonlySet<string>;
}

/** What is known of a row that was written. */
type Known = { readonly [Name in 'before' | 'columns']?: RowEvent[Name] | undefined };

/** By its key, as JSON, what was done to each row of a table. */
export type RowEvents = ReadonlyMap<string, RowEvent>;

/** Rows of one table that are reported at once; more are "something was written". */
const mostRows = 1_000;
/** Letters of a row as it was that are stored at most. */
const mostLetters = 32_768;

/** The rows that were written, and not reported yet. */
export class Pending {
  /** By table; undefined where they are too many, or not known. */
  private readonly tables = new Map<string, Map<string, RowEvent> | undefined>();

  /** Notes what was done to a row, after what was done to it before. */
  add(
    table: string,
    key: readonly string[],
    did: Notice['did'],
    { before, columns }: Known = {},
  ): void {
    const rows = this.tables.has(table) ? this.tables.get(table) : new Map<string, RowEvent>();
    if (rows === undefined) return;
    const text = JSON.stringify(key);
    const known = rows.get(text);
    const short = before !== undefined && before.length <= mostLetters ? before : undefined;
    const now = action(did, short, columns);
    rows.set(text, known === undefined ? now : joined(known, now));
    this.tables.set(table, rows.size > mostRows ? undefined : rows);
  }

  /** Notes that rows of a table were written, whichever. */
  addAny(table: string): void {
    this.tables.set(table, undefined);
  }

  /** Gives what there is, and forgets it. */
  take(): ReadonlyMap<string, RowEvents | undefined> {
    const all = new Map(this.tables);
    this.tables.clear();
    return all;
  }
}

function action(
  did: Notice['did'],
  before: string | undefined,
  columns: ReadonlySet<string> | undefined,
): RowEvent {
  return { did, ...(before !== undefined && { before }), ...(columns && { columns }) };
}

/** What has become of a row to which two things were done. */
function joined({ did, before, columns }: RowEvent, now: RowEvent): RowEvent {
  const all = columns && now.columns && new Set([...columns, ...now.columns]);
  return action(did === 'add' && now.did === 'change' ? 'add' : now.did, before, all);
}
