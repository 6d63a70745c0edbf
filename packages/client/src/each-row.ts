import type { RowsAnswer } from '@ephoros/core/answer';
import type { Place, WrittenQuery } from '@ephoros/core/query';

export interface EachRowOptions {
  /** Rows of one request; 500 by default, and never more than the table's cap. */
  readonly blockSize?: number;
  readonly signal?: AbortSignal;
}

interface QueryOptions<Line> extends EachRowOptions {
  readonly request: (query: WrittenQuery, signal?: AbortSignal) => Promise<RowsAnswer<Line>>;
  readonly query: WrittenQuery;
  /** Whether the table has a key, so that one can read on by cursor. */
  readonly keyed: () => Promise<boolean>;
}

/**
 * Every row of a result from the query's place on, requested in blocks as they are taken. By
 * cursor: none comes twice and none is left out, whatever others write; by offset where the table
 * has no key.
 */
export async function* eachRow<Line>(
  options: QueryOptions<Line>,
): AsyncGenerator<Line, void, undefined> {
  const { request, query, keyed, blockSize = 500, signal } = options;
  let wanted: WrittenQuery = { ...query, total: 'none' };
  // A page is as long as its table or its question says.
  if (query.place?.kind !== 'page') wanted = { ...wanted, limit: blockSize };
  for (;;) {
    signal?.throwIfAborted();
    const answer: RowsAnswer<Line> = await request(wanted, signal);
    for (const row of answer.rows) {
      yield row;
      signal?.throwIfAborted();
    }
    const { next, window } = answer;
    let place: Place;
    if (next !== null) place = { kind: 'after', token: next };
    else {
      const { offset, count, limit, cut = false } = window;
      // Less than was requested is the end; so is what has no further cursor.
      if (offset === null || count === 0 || (count < limit && !cut)) return;
      if (await keyed()) return;
      place = { kind: 'offset', offset: offset + count };
    }
    wanted = { ...wanted, limit: blockSize, place };
  }
}
