import type { CheckedQuery } from '../check/index.ts';
import { keysetOrder } from './keyset-order.ts';

/** Which ways a query's statement takes, in words. */
export interface Paths {
  /** How nulls get their place in the order. */
  readonly nulls: 'one walk' | 'two phases';
  /** How an order by a related column is walked: all rows sorted, parent by parent, or value by value. */
  readonly parents?: 'sorted' | 'one by one' | 'value by value';
  /** How the rows next to a cursor are found. */
  readonly cursor: 'none' | 'row comparison' | 'term by term';
  readonly window: 'offset' | 'after a cursor' | 'before a cursor' | 'before the end';
  readonly search: 'none' | 'occurrence' | 'full text';
}

const windows = {
  after: 'after a cursor',
  before: 'before a cursor',
  end: 'before the end',
} as const;

const parentWays = { none: 'sorted', key: 'one by one', value: 'value by value' } as const;

/** The ways that `compileRows` takes for a query. */
export function pathsOf(query: CheckedQuery): Paths {
  const { sort, anchor, search, byParents } = query;
  const { phased } = keysetOrder(query);
  const [leading] = sort;
  const values = anchor === undefined || anchor.kind === 'end' ? undefined : anchor.values;
  const oneDirection = sort.every(
    (term, index) =>
      term.descending === leading?.descending &&
      values?.[index] !== null &&
      (index === 0 || !term.column.nullable),
  );
  return {
    nulls: phased || byParents !== undefined ? 'two phases' : 'one walk',
    ...((leading?.column.path.length ?? 0) === 0
      ? {}
      : { parents: parentWays[byParents ?? 'none'] }),
    cursor: values === undefined ? 'none' : oneDirection ? 'row comparison' : 'term by term',
    window: anchor === undefined ? 'offset' : windows[anchor.kind],
    search:
      search === undefined ? 'none' : search.fullText === undefined ? 'occurrence' : 'full text',
  };
}
