import type { WindowAnswer } from '@ephoros/core/answer';
import type { Place, WrittenQuery } from '@ephoros/core/query';

type Ask<Line> = (query: WrittenQuery, signal: AbortSignal) => Promise<WindowAnswer<Line>>;

/** A window with all its rows: one that was cut, for its many bytes, is asked for further on. */
export async function askWhole<Line>(
  ask: Ask<Line>,
  query: WrittenQuery & { readonly limit: number; readonly place: Place },
  signal: AbortSignal,
): Promise<WindowAnswer<Line>> {
  let answer = await ask(query, signal);
  const back = query.place.kind === 'before';
  for (;;) {
    const { rows, window } = answer;
    const token = back ? answer.previous : answer.next;
    const left = query.limit - rows.length;
    if (window.cut !== true || token === null || left <= 0) return answer;
    const place: Place = { kind: back ? 'before' : 'after', token };
    const more = await ask({ ...query, limit: left, place, total: 'none' }, signal);
    if (more.rows.length === 0) return answer;
    answer = {
      rows: back ? [...more.rows, ...rows] : [...rows, ...more.rows],
      window: { ...window, count: rows.length + more.rows.length, cut: more.window.cut === true },
      next: back ? answer.next : more.next,
      previous: back ? more.previous : answer.previous,
    };
  }
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
