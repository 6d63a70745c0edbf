import type { WindowAnswer } from '@ephoros/core/answer';
import { matchPart, type WrittenQuery } from '@ephoros/core/query';
import type { SourceState } from './row-source.ts';
import type { ServiceError } from './service-error.ts';

export type KnownTotal = Pick<SourceState, 'total' | 'totalKind' | 'open'>;

/** Nothing is known yet. */
export const unknownTotal: KnownTotal = { total: undefined, totalKind: 'none', open: false };

/** So many, counted. */
export const exactly = (total: number): KnownTotal => ({ total, totalKind: 'exact', open: false });
/** So many, as far as anybody knows. */
const about = (total: number): KnownTotal => ({ total, totalKind: 'estimate', open: false });

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
    return about(window.total ?? end);
  }
  // Behind the end there are no rows either. Without a key a full window may be the last.
  const none = rows.length === 0 && first > 0;
  const ends = !none && next === null && (keyed || rows.length < size);
  if (window.total !== null) {
    if (ends) return exactly(end);
    if (window.totalKind === 'exact') {
      return exactly(window.total);
    }
    // An estimate is no reason to doubt what was read.
    const observed = keyed ? end + 1 : end;
    const total = none ? Math.min(window.total, first) : Math.max(window.total, observed);
    return { total, totalKind: window.totalKind, open: false };
  }
  if (known.total === undefined || known.open) {
    const total = Math.max(known.total ?? 0, end);
    // Read to the end, they are counted.
    return { total, totalKind: ends ? 'exact' : 'none', open: !ends };
  }
  // Others write: the end may lie elsewhere than it was thought to.
  if (none) {
    return about(Math.min(known.total, first));
  }
  if (ends) return exactly(end);
  if (next !== null && known.total <= end) {
    return about(end + 1);
  }
  return known;
}

/** Pauses before the first questions for the exact total, and before each further one, in ms. */
const countPauses = [0, 300, 700, 1_500];
const laterPause = 3_000;
/** Questions for the exact total at most. */
const countTries = 60;

/**
 * The exact number of rows, requested until it is there; undefined where nobody says it. `notify` of
 * estimates meanwhile.
 */
export async function countExactly(
  request: (query: WrittenQuery, signal: AbortSignal) => Promise<WindowAnswer<unknown>>,
  query: WrittenQuery,
  signal: AbortSignal,
  notify?: (estimate: number) => void,
): Promise<number | undefined> {
  // The sort and the columns make no difference to the number of rows, but to the work.
  const rows = matchPart(query);
  for (let tries = 0; tries < countTries && !signal.aborted; tries += 1) {
    const pause = countPauses[tries] ?? laterPause;
    await new Promise((resolve) => setTimeout(resolve, pause));
    try {
      const { window } = await request({ ...rows, limit: 1, total: 'exact' }, signal);
      if (window.total === null) continue;
      if (window.totalKind === 'exact') return window.total;
      notify?.(window.total);
    } catch (thrown) {
      // The rows are there; how many there are may be reported later, unless the question is wrong.
      if ((thrown as Partial<ServiceError>).kind === 'refused') return undefined;
    }
  }
  return undefined;
}
