import type { WindowAnswer } from '@ephoros/core/answer';
import { matchPart, type WrittenQuery } from '@ephoros/core/query';
import type { SourceState } from './row-source.ts';

export type KnownTotal = Pick<SourceState, 'total' | 'totalKind' | 'open'>;

/** Nothing is known yet. */
export const unknownTotal: KnownTotal = { total: undefined, totalKind: 'none', open: false };

/** What an answer and the place of its first row say about the number of rows. */
export function learnt(
  known: KnownTotal,
  first: number,
  { rows, next, window }: WindowAnswer<unknown>,
  size: number,
  keyed: boolean,
): KnownTotal {
  const end = first + rows.length;
  // What is being looked through has so many, so far.
  if (window.scanned !== undefined) {
    return { total: window.total ?? end, totalKind: 'estimate', open: false };
  }
  // Behind the end there are no rows either. Without a key a full window may be the last.
  const none = rows.length === 0 && first > 0;
  const ends = !none && next === null && (keyed || rows.length < size);
  if (window.total !== null) {
    if (ends) return { total: end, totalKind: 'exact', open: false };
    if (window.totalKind === 'exact') {
      return { total: window.total, totalKind: 'exact', open: false };
    }
    // An estimate is no reason to doubt what was seen.
    const seen = keyed ? end + 1 : end;
    const total = none ? Math.min(window.total, first) : Math.max(window.total, seen);
    return { total, totalKind: window.totalKind, open: false };
  }
  if (known.total === undefined || known.open) {
    const total = Math.max(known.total ?? 0, end);
    // Read to the end, they are counted.
    return { total, totalKind: ends ? 'exact' : 'none', open: !ends };
  }
  // Others write: the end may lie elsewhere than it was thought to.
  if (none) {
    return { total: Math.min(known.total, first), totalKind: 'estimate', open: false };
  }
  if (ends) return { total: end, totalKind: 'exact', open: false };
  if (next !== null && known.total <= end) {
    return { total: end + 1, totalKind: 'estimate', open: false };
  }
  return known;
}

/** Pauses between questions for the exact total, in ms; the last one is repeated. */
const countPauses = [0, 300, 700, 1_500, 3_000];
/** Questions for the exact total at most. */
const countTries = 60;

/** The exact number of rows, asked for until it is there; undefined where nobody says it. */
export async function countExactly(
  ask: (query: WrittenQuery, signal: AbortSignal) => Promise<WindowAnswer<unknown>>,
  query: WrittenQuery,
  signal: AbortSignal,
): Promise<number | undefined> {
  // The sort and the columns make no difference to the number of rows, but to the work.
  const rows = matchPart(query);
  for (let tries = 0; tries < countTries && !signal.aborted; tries += 1) {
    const pause = countPauses[Math.min(tries, countPauses.length - 1)] ?? 0;
    await new Promise((resolve) => setTimeout(resolve, pause));
    try {
      const { window } = await ask({ ...rows, limit: 1, total: 'exact' }, signal);
      if (window.totalKind === 'exact' && window.total !== null) return window.total;
    } catch {
      // The rows are there; how many there are may be told later.
    }
  }
  return undefined;
}
