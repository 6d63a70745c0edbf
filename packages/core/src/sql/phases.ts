import type { CheckedQuery, CheckedSortTerm } from '../check/index.ts';
import { sql, type SQL } from './fragment.ts';
import type { ColumnNames } from './column-names.ts';

/** A stretch of an order in which an index is walked in one go. */
export interface Phase {
  /** Whether its rows have a leading value. */
  readonly valued: boolean;
  /** What decides the order within it, and how many terms of the sort stand before those. */
  readonly terms: readonly CheckedSortTerm[];
  readonly skipped: number;
  /** What its rows meet. */
  readonly tests: (scope: ColumnNames) => readonly SQL[];
}

/**
 * An order in its phases: rows with a leading value and rows without one, where it may be null.
 * Undefined where a further column may be null, so that no bound of an index says where a row lies.
 */
export function phasesOf({ sort }: Pick<CheckedQuery, 'sort'>): readonly Phase[] | undefined {
  const [leading, ...rest] = sort;
  if (leading === undefined || rest.some(({ column }) => column.nullable)) return undefined;
  if (!leading.column.nullable) {
    return [{ valued: true, terms: sort, skipped: 0, tests: () => [] }];
  }
  // No nulls are left among the valued: the index's own direction serves.
  const standard = leading.descending ? ('first' as const) : ('last' as const);
  const valued: Phase = {
    valued: true,
    terms: [{ ...leading, nulls: standard }, ...rest],
    skipped: 0,
    tests: (scope) => [sql`${scope.column(leading.column)} is not null`],
  };
  const missing: Phase = {
    valued: false,
    terms: rest,
    skipped: 1,
    tests: (scope) => [sql`${scope.column(leading.column)} is null`],
  };
  return leading.nulls === 'last' ? [valued, missing] : [missing, valued];
}
