import type { WrittenQuery } from '@ephoros/core/query';
import type { Row } from '@ephoros/core/answer';
import { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';

/** Which rows are wanted. */
export interface WantedWindow {
  /** Rows before the first one wanted. */
  readonly offset: number;
  /** Rows at most. */
  readonly limit: number;
  /** What to show: filter, search, sort; `printParameters` spells it as a URL does. */
  readonly query: WrittenQuery;
  /** Aborts when the rows are no longer wanted. */
  readonly signal: AbortSignal;
}

/** A window's rows; a plain list where nobody counts how many there are. */
export type GivenWindow<Line> =
  readonly Line[] | { readonly rows: readonly Line[]; readonly total?: number | undefined };

export interface RowsFromOptions<Line> extends Omit<
  RemoteRowsOptions<Line>,
  'ask' | 'query' | 'keyed' | 'total'
> {
  readonly query?: WrittenQuery;
}

/**
 * A row source over any function that answers windows: somebody else's backend. Whoever answers
 * more rows than were wanted, all of them even, is told so, and the right ones are taken.
 */
export function rowsFrom<Line = Row>(
  answer: (window: WantedWindow) => Promise<GivenWindow<Line>> | GivenWindow<Line>,
  { query = {}, ...options }: RowsFromOptions<Line> = {},
): RemoteRows<Line> {
  return remoteRows<Line>({
    ...options,
    // Without cursors every window is asked for by its offset.
    keyed: false,
    query,
    ask: async ({ limit = 100, place, ...rest }, signal) => {
      const offset = place?.kind === 'offset' ? place.offset : 0;
      const given = await answer({ offset, limit, query: { ...query, ...partOf(rest) }, signal });
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

/** How hard to count is asked of a service alone. */
function partOf({ total: _counting, ...query }: WrittenQuery): WrittenQuery {
  return query;
}

function isList<Line>(given: GivenWindow<Line>): given is readonly Line[] {
  return Array.isArray(given);
}
