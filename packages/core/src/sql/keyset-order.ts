import type { CheckedSortTerm, CheckedWindow } from '../check/index.ts';

/** The order in which a query's rows are walked. */
export interface KeysetOrder {
  /** The sort's terms; turned around for the rows before a cursor or the end. */
  readonly terms: readonly CheckedSortTerm[];
  /** Whether rows with a leading value and rows without one are walked apart. */
  readonly phased: boolean;
}

/**
 * How `compileRows` walks. A plain index holds nulls after the greatest value; where they are
 * wanted elsewhere, or a cursor says where to begin, it is walked in two phases.
 */
export function keysetOrder(window: CheckedWindow): KeysetOrder {
  const { anchor } = window;
  const terms = termsAlong(window);
  const [leading] = terms;
  if (leading?.column.nullable !== true) return { terms, phased: false };
  const elsewhere = leading.descending === (leading.nulls === 'last');
  const byCursor = anchor !== undefined && anchor.kind !== 'end';
  return { terms, phased: byCursor || elsewhere };
}

/** The sort's terms in the direction that a window is come to. */
export function termsAlong({ sort, anchor }: CheckedWindow): readonly CheckedSortTerm[] {
  return anchor === undefined || anchor.kind === 'after' ? sort : sort.map(turned);
}

function turned({ column, descending, nulls }: CheckedSortTerm): CheckedSortTerm {
  return { column, descending: !descending, nulls: nulls === 'last' ? 'first' : 'last' };
}
