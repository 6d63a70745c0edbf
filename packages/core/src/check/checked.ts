import type { Comparator } from '../expression/index.ts';
import type { Shape, TotalKind } from '../query/index.ts';
import type { ColumnDescription, ColumnType, TableDescription } from '../schema/index.ts';

/** A side of a comparison. Values are in PostgreSQL's own notation of their type. */
export type CheckedScalar =
  | { readonly kind: 'column'; readonly column: ColumnDescription }
  | { readonly kind: 'value'; readonly value: string; readonly type: ColumnType }
  | { readonly kind: 'casei'; readonly operand: CheckedScalar };

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
  /** `%` any text, `_` one character, `\` takes the next one literally. */
  | { readonly kind: 'like'; readonly operand: CheckedScalar; readonly pattern: CheckedScalar }
  | { readonly kind: 'isNull'; readonly operand: CheckedScalar }
  /** A boolean column or literal alone. */
  | { readonly kind: 'truth'; readonly operand: CheckedScalar };

export interface CheckedSortTerm {
  readonly column: ColumnDescription;
  readonly descending: boolean;
  readonly nulls: 'first' | 'last';
}

/** A question that can be answered as it stands. */
export interface CheckedQuery {
  readonly table: TableDescription;
  readonly columns: readonly ColumnDescription[];
  readonly filter?: CheckedExpression;
  /** Ends with the table's key, so that the order is total (where the table has a key). */
  readonly sort: readonly CheckedSortTerm[];
  /** Rows before the first one asked for. */
  readonly offset: number;
  /** Rows at most, the table's row cap applied. */
  readonly limit: number;
  /** Whether more rows were asked for than the row cap allows. */
  readonly capped: boolean;
  readonly total: TotalKind;
  readonly shape: Shape;
}
