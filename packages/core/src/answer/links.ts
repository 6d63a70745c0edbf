import type { Window, WindowLinks } from './schemas.ts';

/** What the ways on from a window are known by. */
export type LinkedWindow = Pick<
  Window,
  'offset' | 'limit' | 'count' | 'total' | 'totalKind' | 'cut'
>;

/**
 * Where the windows around one lie, as far as they are known, each as the parameter that leads
 * there; `byOffset` says whether offsets are preferred to page numbers.
 */
export function linksAround(
  { offset, limit, count, total, totalKind, cut = false }: LinkedWindow,
  { next, previous }: { readonly next: string | null; readonly previous: string | null },
  byOffset = false,
): WindowLinks {
  if (offset === null) {
    return {
      first: '',
      ...(previous === null ? {} : { previous: `before=${previous}` }),
      ...(next === null ? {} : { next: `after=${next}` }),
    };
  }
  const at = (start: number): string =>
    byOffset || start % limit !== 0 ? `offset=${start}` : `page=${start / limit + 1}`;
  const ends = totalKind === 'exact' && total !== null ? total : undefined;
  const more = ends === undefined ? count === limit || cut : offset + count < ends;
  return {
    first: at(0),
    ...(offset > 0 ? { previous: at(Math.max(0, offset - limit)) } : {}),
    ...(more && count > 0 ? { next: at(offset + (cut ? count : limit)) } : {}),
    ...(ends === undefined ? {} : { last: at(lastWindowStart(ends, offset, limit)) }),
  };
}

/** The start of the last window that steps of `limit` from `offset` come to. */
function lastWindowStart(total: number, offset: number, limit: number): number {
  const phase = offset % limit;
  return Math.max(0, Math.floor((total - 1 - phase) / limit) * limit + phase);
}
