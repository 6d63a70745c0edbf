import { plainConditions, type PlainCondition, type WrittenQuery } from '@ephoros/core/query';
import type { Row } from '@ephoros/core/answer';
import type { SortMark } from '@ephoros/core/view';
import { simulated } from './simulated.ts';
import type { Simulation } from '@ephoros/core/simulation';
import { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';

/** Which rows are wanted. */
export interface WantedWindow {
  /** Rows before the first one wanted. */
  readonly offset: number;
  /** Rows at most. */
  readonly limit: number;
  /**
   * The conditions that all must hold; undefined where the filter says more than plain conditions
   * can, with OR or functions: then `query` has it.
   */
  readonly conditions: readonly PlainCondition[] | undefined;
  /** Words and phrases that must all occur. */
  readonly search: readonly string[];
  /** The sort, by weight. */
  readonly sort: readonly SortMark[];
  /** All of it as an expression; `printParameters` spells it as a URL does. */
  readonly query: WrittenQuery;
  /** Aborts when the rows are no longer wanted. */
  readonly signal: AbortSignal;
}

/** A window's rows; a plain list where nobody counts how many there are. */
export type GivenWindow<Line> =
  readonly Line[] | { readonly rows: readonly Line[]; readonly total?: number | undefined };

export interface RowsFromOptions<Line> extends Omit<
  RemoteRowsOptions<Line>,
  'request' | 'query' | 'keyed' | 'total'
> {
  readonly query?: WrittenQuery;
  /** Slowness and failures on demand, to be looked at; see `Simulation`. */
  readonly simulate?: Simulation | undefined;
}

/**
 * A row source over any function that answers windows: somebody else's backend. Anyone who answers
 * more rows than were wanted, all of them even, gets a warning, and the right ones are taken.
 */
export function rowsFrom<Line = Row>(
  answer: (window: WantedWindow) => Promise<GivenWindow<Line>> | GivenWindow<Line>,
  { query = {}, simulate: trouble, ...options }: RowsFromOptions<Line> = {},
): RemoteRows<Line> {
  return remoteRows<Line>({
    ...options,
    // Without cursors every window is requested by its offset.
    keyed: false,
    query,
    request: async ({ limit = 100, place, ...rest }, signal) => {
      const offset = place?.kind === 'offset' ? place.offset : 0;
      const terms = { ...query, ...partOf(rest) };
      await simulated(trouble, signal);
      const given = await answer({ offset, limit, ...plainly(terms), query: terms, signal });
      const { rows, total } = isList(given) ? { rows: given, total: undefined } : given;
      return {
        rows,
        window: {
          offset,
          limit,
          count: rows.length,
          total: total ?? null,
          totalKind: total === undefined ? 'none' : 'exact',
        },
        next: null,
        previous: null,
      };
    },
  });
}

/** How hard to count is a parameter of the service alone. */
function partOf({ total: _counting, ...query }: WrittenQuery): WrittenQuery {
  return query;
}

/** What is requested, for anyone who does not read expressions. */
function plainly({
  filter,
  search = [],
  sort = [],
}: WrittenQuery): Pick<WantedWindow, 'conditions' | 'search' | 'sort'> {
  return {
    conditions: typeof filter === 'string' ? undefined : plainConditions(filter),
    search,
    sort: sort.map(({ column: { name }, descending }) => ({ column: name, descending })),
  };
}

function isList<Line>(given: GivenWindow<Line>): given is readonly Line[] {
  return Array.isArray(given);
}
