import type { AggregateName } from './aggregate.ts';
import type { ColumnType, Encoding } from './column-type.ts';
import type { WrittenPaintRule } from './paint.ts';

/**
 * How a view shows a value. `currency` is an ISO 4217 code or a town's own sign; `decimals` the
 * digits after the point; `picture` and `link` take the value as a URL.
 */
export type ColumnFormat =
  | { readonly kind: 'number'; readonly decimals?: number; readonly unit?: string }
  | { readonly kind: 'money'; readonly currency: string; readonly decimals?: number }
  | { readonly kind: 'percent'; readonly decimals?: number }
  /** A number that names something, such as a key or a year: no digits are set apart. */
  | { readonly kind: 'identifier' }
  | { readonly kind: 'date' }
  | { readonly kind: 'datetime' }
  /** A number of these units. */
  | { readonly kind: 'duration'; readonly unit: 'seconds' | 'minutes' | 'hours' | 'days' }
  | { readonly kind: 'link' }
  | { readonly kind: 'picture' }
  | { readonly kind: 'badge' };

/** What values are called, by the text of each; those that have no name here stay as they are. */
export type ValueLabels = Readonly<Record<string, string>>;

/** A column of an answer: one of a table, or one that was made of others. */
export interface ResultColumn {
  readonly name: string;
  /** What people read in a header. */
  readonly label: string;
  readonly type: ColumnType;
  /**
   * What distinguishes it from others with the same name: "Lock canal name", or "Lock no." of a
   * reference that is shown by a name; absent where nothing has to.
   */
  readonly longLabel?: string | undefined;
  /** How its values stand in JSON. */
  readonly encoding: Encoding;
  readonly format?: ColumnFormat;
  readonly valueLabels?: ValueLabels;
}

/** How values of a column may be written by the caller. */
export interface ColumnWriting {
  /** In new rows. */
  readonly add?: true;
  /** In rows that are there. */
  readonly change?: true;
  /** Whether new rows must have a value of it: it is neither nullable nor has a default. */
  readonly required?: true;
  /** What its texts must match as a whole (an ECMAScript regular expression), and how that is reported. */
  readonly pattern?: { readonly text: string; readonly message?: string };
}

/** What may be changed of a table by the caller. */
export interface TableWriting {
  readonly add: boolean;
  /** Values of some of the columns. */
  readonly change: boolean;
  readonly remove: boolean;
  /** Conditions in the query language that a saved row must not break, and how that is reported. */
  readonly rules?: readonly { readonly rule: string; readonly message: string }[];
}

/** One column of a published table. */
export interface ColumnDescription extends ResultColumn {
  readonly nullable: boolean;
  readonly sortable: boolean;
  readonly filterable: boolean;
  /** Whether an index leads with this column, so that sorting by it is quick at any size. */
  readonly indexed: boolean;
  /** Whether a row holds it when a request names no columns. */
  readonly shown: boolean;
  /** Whether rows can be grouped by it. */
  readonly groupable: boolean;
  /** The aggregates that can be made of it: `sum` among them where it may be summed. */
  readonly aggregates: readonly AggregateName[];
  /**
   * How its texts are ordered: "C" by code point, or the language tag (BCP 47) of an ICU collation;
   * absent where that is not known, and for what is no text.
   */
  readonly textOrder?: string;
  /**
   * Of a reference: the related column that names the row it leads to, such as `lock.name`, which
   * people read, sort, search and filter in its place.
   */
  readonly shownAs?: string;
  /** The column's comment in the database. */
  readonly comment?: string;
  /** Absent where it may not be written. */
  readonly writing?: ColumnWriting;
}

/** One term of a table's own sort. */
export interface SortDefault {
  readonly column: string;
  readonly descending: boolean;
}

/**
 * A foreign key between two published tables, seen from one of them. `one`: the rows of this
 * table refer to at most one row there. `many`: any number of rows there refer to a row here.
 */
export interface Relationship {
  /** `lock` (to one), `passages` (to many). */
  readonly name: string;
  readonly kind: 'one' | 'many';
  /** The published name of the other table. */
  readonly table: string;
  /** Columns of this table, and the ones there that they equal. */
  readonly columns: readonly string[];
  readonly references: readonly string[];
}

/** What a published table reports about itself. */
export interface TableDescription {
  readonly name: string;
  readonly title: string;
  readonly kind: 'table' | 'view';
  readonly comment?: string;
  /** Names of the columns that identify a row, in order; empty when there are none. */
  readonly key: readonly string[];
  /** The column that names a row to people, such as a lock's name; absent where none does. */
  readonly label?: string;
  /** In the order in which they are shown. */
  readonly columns: readonly ColumnDescription[];
  /** The related columns that references are shown as; absent where none are. */
  readonly related?: readonly ColumnDescription[];
  readonly relationships: readonly Relationship[];
  /** Columns that are read together, by the name that they have as such; absent where nobody stated it. */
  readonly sections?: readonly { readonly title: string; readonly columns: readonly string[] }[];
  /** Where a search looks: columns, also related ones. */
  readonly search: readonly string[];
  /** A full-text configuration, such as "english", where searches go by words of a language. */
  readonly fullText?: string;
  /** The sort used when a request names none; the key follows it. */
  readonly defaultSort: readonly SortDefault[];
  /** Columns that stand first where a row is a card of a few fields, as on a phone. */
  readonly narrow?: readonly string[];
  /** A condition (a text of the filter language) that views begin with, until a reader removes it. */
  readonly begin?: string;
  /** A condition that views join to whatever a reader asks for. */
  readonly fixed?: string;
  /** How cells and rows look where a view has no rules of its own. */
  readonly paint?: readonly WrittenPaintRule[];
  /** Page sizes offered to readers; the first one is the default. */
  readonly pageSizes: readonly number[];
  /** No answer holds more rows than this. */
  readonly rowCap: number;
  /** The planner's guess of the number of rows; null when it has none. */
  readonly estimatedRows: number | null;
  /** Absent where nothing may be changed. */
  readonly changes?: TableWriting;
  /** What a reader should know, such as that the table has no key. */
  readonly remarks: readonly string[];
}

/** A table in the list of tables. */
export interface TableSummary {
  readonly name: string;
  readonly title: string;
  readonly kind: 'table' | 'view';
  readonly comment?: string;
  readonly estimatedRows: number | null;
  readonly links: { readonly description: string; readonly rows: string };
}
