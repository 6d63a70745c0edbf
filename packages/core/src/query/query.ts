import type { Expression, PathValue, Span } from '../expression/index.ts';

/** A name as it was written, with its place in its parameter. */
export interface Name {
  readonly name: string;
  readonly span: Span;
}

export interface SortTerm {
  readonly column: Name;
  readonly descending: boolean;
  /** What the groups are sorted by, where that is no column: `-sum(toll)`. */
  readonly expression?: Expression;
  /** Where nulls stand in this term; where the query says by default. Has no spelling in `sort`. */
  readonly nulls?: 'first' | 'last';
}

/**
 * A value that a query names: a level of a grouping, or an aggregate. `name` is its canonical
 * spelling, `month(passed_at)`, by which answers and sort terms call it.
 */
export interface Term {
  readonly name: string;
  readonly expression: Expression;
}

/** How hard to count: every row, the planner's guess, or not at all. */
export type TotalKind = 'exact' | 'estimate' | 'none';

/** Rows as objects by column name, or as arrays in column order. */
export type Shape = 'objects' | 'arrays';

/**
 * Where the rows lie: a page (counted from 1), an offset (counted from 0), or just after or just
 * before a row, by a cursor's token.
 */
export type Place =
  | { readonly kind: 'page'; readonly page: number }
  | { readonly kind: 'offset'; readonly offset: number }
  | { readonly kind: 'after' | 'before'; readonly token: string };

/**
 * What to show, as it was requested: names are not looked up yet. What is absent is at its default:
 * all shown columns, no condition, the table's own sort, the first page of the table's own size.
 */
export type Query = QueryWith<Expression>;

/** A query whose filter may still be text, to be read by anyone who answers it. */
export type WrittenQuery = QueryWith<Expression | string>;

/** See `Query`; with its filter as it is at hand. */
export interface QueryWith<Filter> {
  readonly columns?: readonly Name[];
  readonly filter?: Filter;
  /** Words and phrases that must all occur, each in some searchable column. */
  readonly search?: readonly string[];
  readonly sort?: readonly SortTerm[];
  /** The levels of a grouping, the outermost first. */
  readonly group?: readonly Term[];
  /** The values of the groups that a level lies in, the outermost first; none by default. */
  readonly path?: readonly PathValue[];
  readonly aggregate?: readonly Term[];
  /** Where nulls stand in every term of the sort; `last` by default. */
  readonly nulls?: 'first' | 'last';
  readonly limit?: number;
  readonly place?: Place;
  readonly total?: TotalKind;
  readonly shape?: Shape;
  /** Characters of a long value at most; what is longer is cut, and the answer says where. */
  readonly cells?: number;
}
