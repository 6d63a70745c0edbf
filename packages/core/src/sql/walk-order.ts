import type { CheckedSortTerm, CheckedWindow } from '../check/index.ts';

/** The order in which a query's rows are walked. */
export interface WalkOrder {
  /** The sort's terms; turned around for the rows before a cursor or the end. */
  readonly terms: readonly CheckedSortTerm[];
  /** Whether rows with a leading value and rows without one are walked apart. */
  readonly phased: boolean;
}

/**
 * How `compileRows` walks. A plain index holds nulls after the greatest value; where they are
 * wanted elsewhere, or a cursor says where to begin, it is walked in two phases.
 */
export function walkOrder(window: CheckedWindow): WalkOrder {
  const { beside } = window;
  const terms = termsAlong(window);
  const [leading] = terms;
  if (leading?.column.nullable !== true) return { terms, phased: false };
  const elsewhere = leading.descending === (leading.nulls === 'last');
  const byCursor = beside !== undefined && beside.kind !== 'end';
  return { terms, phased: byCursor || elsewhere };
}

/** The sort's terms in the direction that a window is come to. */
export function termsAlong({ sort, beside }: CheckedWindow): readonly CheckedSortTerm[] {
  return beside === undefined || beside.kind === 'after' ? sort : sort.map(turned);
}

function turned({ column, descending, nulls }: CheckedSortTerm): CheckedSortTerm {
  return { column, descending: !descending, nulls: nulls === 'last' ? 'first' : 'last' };
}
