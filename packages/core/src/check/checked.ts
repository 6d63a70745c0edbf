import type { ArithmeticOperator, Comparator } from '../expression/index.ts';
import type { Shape, TotalKind } from '../query/index.ts';
import type {
  AggregateName,
  ColumnType,
  FoundColumn,
  Relationship,
  ResultColumn,
  TableDescription,
} from '../schema/index.ts';
import type { FunctionName } from './functions.ts';

/**
 * A column that a query uses: one of the table's own, or one of a row it refers to. `name` is
 * the name as the query writes it, such as `lock.canal.name`.
 */
export interface CheckedColumn extends FoundColumn {
  /** It is no column of a table, but how well a row meets this search. */
  readonly ranks?: CheckedSearch;
}

/** A value. Literals are in PostgreSQL's own notation of their type. */
export type CheckedScalar =
  | { readonly kind: 'column'; readonly column: CheckedColumn; readonly type: ColumnType }
  | { readonly kind: 'value'; readonly value: string; readonly type: ColumnType }
  /** A list of values that can be compared with the element's type. */
  | { readonly kind: 'list'; readonly members: readonly CheckedScalar[]; readonly type: ColumnType }
  /** Whether a condition holds; null where that is unknown. */
  | { readonly kind: 'condition'; readonly condition: CheckedExpression; readonly type: ColumnType }
  /** In exact decimals, or in floats where a side is one. Division by zero gives null. */
  | {
      readonly kind: 'arithmetic';
      readonly operator: ArithmeticOperator;
      readonly left: CheckedScalar;
      readonly right: CheckedScalar;
      readonly type: ColumnType;
    }
  | {
      readonly kind: 'function';
      readonly name: FunctionName;
      readonly args: readonly CheckedScalar[];
      readonly type: ColumnType;
    }
  /** How many rows refer to this one and meet the condition. */
  | {
      readonly kind: 'count';
      readonly relationship: Relationship;
      readonly condition?: CheckedExpression;
      readonly type: ColumnType;
    };

/**
 * A condition whose names exist and whose types fit. Only `checkQuery` makes it, and the
 * executors (`sql`, `memory`) read nothing else.
 */
export type CheckedExpression =
  | { readonly kind: 'and' | 'or'; readonly operands: readonly CheckedExpression[] }
  | { readonly kind: 'not'; readonly operand: CheckedExpression }
  | {
      readonly kind: 'comparison';
      readonly comparator: Comparator;
      readonly left: CheckedScalar;
      readonly right: CheckedScalar;
    }
  | {
      readonly kind: 'between';
      readonly operand: CheckedScalar;
      readonly low: CheckedScalar;
      readonly high: CheckedScalar;
    }
  | {
      readonly kind: 'in';
      readonly operand: CheckedScalar;
      readonly members: readonly CheckedScalar[];
    }
  /**
   * One of these rows: each by the parts of its key, as it was spelled and in PostgreSQL's notation.
   */
  | {
      readonly kind: 'selected';
      readonly columns: readonly CheckedColumn[];
      readonly keys: readonly (readonly { readonly text: string; readonly value: string }[])[];
    }
  /** All that match, except some rows. Never unknown. */
  | {
      readonly kind: 'matching';
      readonly filter?: CheckedExpression;
      readonly search?: CheckedSearch;
      readonly except?: CheckedExpression;
    }
  /** `%` any text, `_` one character, `\` takes the next one literally. */
  | { readonly kind: 'like'; readonly operand: CheckedScalar; readonly pattern: CheckedScalar }
  | { readonly kind: 'isNull'; readonly operand: CheckedScalar }
  /** A boolean value alone. */
  | { readonly kind: 'truth'; readonly operand: CheckedScalar }
  /** Whether any row refers to this one and meets the condition. Never unknown. */
  | {
      readonly kind: 'has';
      readonly relationship: Relationship;
      readonly condition?: CheckedExpression;
    };

export interface CheckedSortTerm {
  readonly column: CheckedColumn;
  readonly descending: boolean;
  readonly nulls: 'first' | 'last';
}

/** Every term must occur in some of the columns, letter case ignored. */
export interface CheckedSearch {
  readonly terms: readonly string[];
  readonly columns: readonly CheckedColumn[];
  /** The full-text configuration to search by; absent for plain occurrence. */
  readonly fullText?: string;
}

/**
 * The place that a window is counted from: the row just before or just behind it, by the values
 * of its sort terms, or the end of the result.
 */
export type Anchor =
  | { readonly kind: 'after' | 'before'; readonly values: readonly (string | null)[] }
  | { readonly kind: 'end' };

/** A row next to which a window lies, and of which the key alone is known so far. */
export interface AnchorRow {
  readonly kind: 'after' | 'before';
  readonly key: readonly (string | null)[];
}

/** A part of an ordered result. */
export interface CheckedWindow {
  readonly table: TableDescription;
  /** Ends with what distinguishes all rows, so that the order is total (where there is a key). */
  readonly sort: readonly CheckedSortTerm[];
  /** Rows between the place that `anchor` names (by default the beginning) and the window. */
  readonly offset: number;
  readonly anchor?: Anchor | undefined;
  /** Rows at most, the table's row cap applied. */
  readonly limit: number;
  /** Whether more rows were requested than the row cap allows. */
  readonly capped: boolean;
}

/** Which rows: those that meet a condition and in which the searched words occur. */
export interface CheckedMatch {
  readonly filter?: CheckedExpression;
  readonly search?: CheckedSearch;
}

/** A question that can be answered as it stands. */
export interface CheckedQuery extends CheckedWindow, CheckedMatch {
  /**
   * How its rows are walked along a related column, as an executor may choose: parent by parent by their keys, or
   * all parents of a value together. The answer is the same as that of one sort, where it is absent.
   */
  readonly byParents?: 'key' | 'value';
  /** Instead of `anchor`, where the row's sort values are to be looked up first. */
  readonly anchorRow?: AnchorRow;
  readonly columns: readonly CheckedColumn[];
  readonly total: TotalKind;
  /** Whether the query names an exact total, so that its caller may wait for the count. */
  readonly awaitsTotal?: boolean;
  readonly shape: Shape;
  /** Characters of a value of a type without bounds at most; all of them where it is absent. */
  readonly cells?: number;
}

/** A level of a grouping: rows with the same value of it make a group. */
export interface CheckedLevel extends ResultColumn {
  /** See `FoundColumn`. */
  readonly longLabel?: string | undefined;
  readonly scalar: CheckedScalar;
  readonly nullable: boolean;
  /** Of a related column: whether many rows refer to the same row that it lies in. */
  readonly repeats: boolean;
}

/** What is made of the rows of a group. */
export interface CheckedAggregate extends ResultColumn {
  readonly kind: AggregateName;
  /** Of which values; absent for the rows themselves. */
  readonly argument?: CheckedScalar;
  /** Of which rows; absent for all. */
  readonly only?: CheckedExpression;
  /** Of a percentile: how much of the rows lies at or below it, 0 to 1, as a decimal. */
  readonly fraction?: string;
}

/** All groups of the last level of a grouping, with their values of every level. */
export interface CheckedGroupLines extends Pick<
  CheckedGrouping,
  'table' | 'filter' | 'search' | 'levels' | 'aggregates' | 'hidden' | 'offset'
> {
  /** Of the levels, `k0` and so on, and of the aggregates, `a0` and so on. */
  readonly columns: readonly CheckedColumn[];
  readonly sort: readonly CheckedSortTerm[];
  /** Whether the groups of the levels above come as lines too, each before those that lie in it. */
  readonly folded?: boolean;
}

/**
 * One level of a grouping. Its lines have the columns `value`, `count`, `below` and `a0`, `a1`, …
 * for the aggregates, by which the sort's terms call them.
 */
export interface CheckedGrouping extends CheckedWindow, CheckedMatch {
  /** Outermost first; none for aggregates of the whole result. */
  readonly levels: readonly CheckedLevel[];
  /** The values of the levels above the one requested, in PostgreSQL's notation. */
  readonly path: readonly (string | null)[];
  /** Those requested. */
  readonly aggregates: readonly CheckedAggregate[];
  /** Those that the lines are sorted by beyond them. */
  readonly hidden: readonly CheckedAggregate[];
  /** Whether equal values are counted before they are put into order, as an executor may choose. */
  readonly byValues?: boolean;
  /** Only lines whose value has this text in it, letter case ignored. */
  readonly containing?: string;
  /** Whether its values alone are found, along an index: neither their rows nor they themselves are counted. */
  readonly uncounted?: true;
}
