import type { Literals } from '@ephoros/core/expression';
import type {
  AggregatesAnswer,
  GroupLine,
  GroupsAnswer,
  Row,
  Value,
  ValuesAnswer,
} from '@ephoros/core/answer';

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

/** A column, or a function of one: `month(passed_at)`, `bin(passed_at, 'P1M')`. */
export type TermName<Table extends TableTypes> =
  | ColumnName<Table>
  | `${string}(${ColumnName<Table>})`
  | `${string}(${ColumnName<Table>}, ${string})`;

/** `toll`, or `-toll` for descending; groups also by their aggregates, `-sum(toll)`. */
export type SortName<Table extends TableTypes> = SortTerm<Table> | `-${SortTerm<Table>}`;

type SortTerm<Table extends TableTypes> = TermName<Table> | `${string}()`;

/** `count()`, `sum(toll)`, `percentile(toll, 90)`; of some rows `sum(toll, status = 'passed')`. */
export type AggregateTerm<Table extends TableTypes> =
  `${string}(${ColumnName<Table> | ''})` | `${string}(${ColumnName<Table>}${' ' | ', '}${string})`;

/** What rows and groups hold of a column, or of what is made of one. */
export type TermValue<Table extends TableTypes, Term> =
  Term extends ColumnName<Table> ? ColumnsOf<Table>[Term] : Value;

/** What an aggregate gives: sums and averages of what JSON numbers cannot hold are texts. */
export type AggregateValue<
  Table extends TableTypes,
  Term,
> = Term extends `${'count' | 'distinct'}(${string})`
  ? number
  : Term extends `share(${string})`
    ? number | null
    : Term extends `${'min' | 'max' | 'percentile'}(${infer Inside})`
      ? TermValue<Table, FirstOf<Inside>> | null
      : Term extends `${'sum' | 'avg' | 'median'}(${infer Inside})`
        ? Sum<TermValue<Table, FirstOf<Inside>>> | null
        : Value;

/** The column of an aggregate, before the rest of its description. */
type FirstOf<Inside> = Inside extends `${infer First}, ${string}` ? First : Inside;

/** Floating-point numbers stay what they are. */
type Sum<Summed> = 'NaN' extends Summed ? Summed : string;

/** The values of aggregates, by their names. */
export type AggregateValues<Table extends TableTypes, Term extends string> = {
  readonly [Name in Term]: AggregateValue<Table, Name>;
};

/** Aggregates of a whole result. */
export type AggregatesOf<Table extends TableTypes, Term extends string> = Omit<
  AggregatesAnswer,
  'values'
> & { readonly values: AggregateValues<Table, Term> };

/** Lines of groups by a level, with their aggregates. */
export type GroupsOf<Table extends TableTypes, Level, Term extends string> = Omit<
  GroupsAnswer,
  'groups'
> & {
  readonly groups: readonly (Omit<GroupLine, 'value' | 'aggregates'> & {
    readonly value: TermValue<Table, Level>;
    readonly aggregates: AggregateValues<Table, Term>;
  })[];
};

/** The values of a column. */
export type ValuesOf<Table extends TableTypes, Name> = Omit<ValuesAnswer, 'values'> & {
  readonly values: readonly (Omit<ValuesAnswer['values'][number], 'value'> & {
    readonly value: TermValue<Table, Name>;
  })[];
};

/** A row with some of a table's columns; with any, where nothing is known of it. */
export type SomeOf<Table extends TableTypes> =
  string extends ColumnName<Table> ? Row : Partial<ColumnsOf<Table>>;
