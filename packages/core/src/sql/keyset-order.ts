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
  return { terms, phased: isPhased(terms, anchor !== undefined && anchor.kind !== 'end') };
}

/** Whether terms are walked in two phases, to a place by a cursor or from their beginning. */
export function isPhased([leading]: readonly CheckedSortTerm[], byCursor: boolean): boolean {
  if (leading?.column.nullable !== true) return false;
  const elsewhere = leading.descending === (leading.nulls === 'last');
  return byCursor || elsewhere;
}

/** The sort's terms in the direction that a window is come to. */
export function termsAlong({ sort, anchor }: CheckedWindow): readonly CheckedSortTerm[] {
  return anchor === undefined || anchor.kind === 'after' ? sort : sort.map(turned);
}

function turned({ column, descending, nulls }: CheckedSortTerm): CheckedSortTerm {
  return { column, descending: !descending, nulls: nulls === 'last' ? 'first' : 'last' };
}
