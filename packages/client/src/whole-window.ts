import type { WindowAnswer } from '@ephoros/core/answer';
import type { Place, WrittenQuery } from '@ephoros/core/query';

type Ask<Line> = (query: WrittenQuery) => Promise<WindowAnswer<Line>>;

/**
 * A window with all its rows: one that was cut, for its many bytes or since the table answers fewer
 * rows at once, is requested further on. Without a key (`keyed`) there are no cursors to go on by.
 */
export async function fetchWhole<Line>(
  request: Ask<Line>,
  query: WrittenQuery & { readonly limit: number; readonly place: Place },
  keyed = true,
): Promise<WindowAnswer<Line>> {
  let answer = await request(query);
  const back = query.place.kind === 'before';
  for (let last = answer; ;) {
    const { rows, window } = answer;
    const left = query.limit - rows.length;
    const short = last.window.cut === true || last.window.rowCap !== undefined;
    const place = placeBehind(query.place, rows.length, last, keyed);
    if (!short || place === undefined || left <= 0) return answer;
    const more = await request({ ...query, limit: left, place, total: 'none' });
    if (more.rows.length === 0) return answer;
    const count = rows.length + more.rows.length;
    answer = {
      rows: back ? [...more.rows, ...rows] : [...rows, ...more.rows],
      window: { ...window, limit: query.limit, count, cut: more.window.cut === true },
      next: back ? answer.next : more.next,
      previous: back ? more.previous : answer.previous,
    };
    last = more;
  }
}

/** Where a window goes on behind so many rows: by cursor, or where there are none by offset. */
function placeBehind(
  begun: Place,
  count: number,
  { rows, next, previous, window }: WindowAnswer<unknown>,
  keyed: boolean,
): Place | undefined {
  const token = begun.kind === 'before' ? previous : next;
  if (token !== null) return { kind: begun.kind === 'before' ? 'before' : 'after', token };
  // Fewer than are answered at once are the last ones.
  const more = !keyed && begun.kind === 'offset' && rows.length >= window.limit;
  return more ? { kind: 'offset', offset: begun.offset + count } : undefined;
}

/** The rows that were wanted, of a backend that gives more: from the beginning, or all. */
export function windowOf<Line>(
  answer: WindowAnswer<Line>,
  from: number,
  size: number,
): WindowAnswer<Line> {
  const { rows } = answer;
  if (rows.length <= size) return answer;
  const window = { ...answer.window, total: rows.length, totalKind: 'exact' as const };
  return { ...answer, rows: rows.slice(from, from + size), window };
}
