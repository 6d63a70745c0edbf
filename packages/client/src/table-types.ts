import type { Literals } from '@ephoros/core/expression';
import type { Row } from '@ephoros/core/answer';

/** What is known of a table at compile time, as `ephoros types` writes it. */
export interface TableTypes {
  /** Its own columns, as rows hold them. */
  readonly row: object;
  /** Columns of related tables, by their paths. */
  readonly related: object;
  /** What its columns, and related ones, are compared with in conditions. */
  readonly literals: object;
}

/** Tables by name. */
export type TableSet<Tables> = { readonly [Name in keyof Tables]: TableTypes };

/** Tables of which nothing is known. */
export type AnyTables = Readonly<Record<string, AnyTable>>;

export interface AnyTable {
  readonly row: Row;
  readonly related: Row;
  readonly literals: Literals;
}

export type NameOf<Tables> = keyof Tables & string;

/** The columns that a query of a table may name. */
export type ColumnsOf<Table extends TableTypes> = Table['row'] & Table['related'];

export type ColumnName<Table extends TableTypes> = keyof ColumnsOf<Table> & string;

/** A column, or a function of columns: `month(passed_at)`. */
export type TermName<Table extends TableTypes> = ColumnName<Table> | `${string}(${string})`;

/** `toll`, or `-toll` for descending. */
export type SortName<Table extends TableTypes> = TermName<Table> | `-${TermName<Table>}`;

/** `count()`, `sum(toll)`, `percentile(toll, 90)`. */
export type AggregateTerm<Table extends TableTypes> =
  `${string}(${ColumnName<Table> | ''})` | `percentile(${ColumnName<Table>}, ${number})`;
