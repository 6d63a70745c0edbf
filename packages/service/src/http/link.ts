import type { RowsAnswer } from './answer.ts';

/**
 * The Link header of a rows answer (RFC 8288): first, prev, next and last, as far as they are
 * known, in the spelling that the request used (page or offset).
 */
export function linkHeader(url: string, { query, total, count }: RowsAnswer): string {
  const { offset, limit } = query;
  const ends = total === null || query.total !== 'exact' ? undefined : total;
  const lastOffset = ends === undefined ? undefined : lastPageStart(ends, offset, limit);
  const more = ends === undefined ? count === limit : offset + count < ends;
  const places: [string, number | undefined][] = [
    ['first', 0],
    ['prev', offset > 0 ? Math.max(0, offset - limit) : undefined],
    ['next', more && count > 0 ? offset + limit : undefined],
    ['last', lastOffset],
  ];
  return places
    .flatMap(([relation, start]) =>
      start === undefined ? [] : [`<${at(url, start, limit)}>; rel="${relation}"`],
    )
    .join(', ');
}

/** The start of the last window that a walk in steps of `limit` from `offset` comes to. */
function lastPageStart(total: number, offset: number, limit: number): number {
  const phase = offset % limit;
  return Math.max(0, Math.floor((total - 1 - phase) / limit) * limit + phase);
}

function at(url: string, start: number, limit: number): string {
  const [path = '', search = ''] = url.split('?');
  const parameters = new URLSearchParams(search);
  if (parameters.has('offset') || start % limit !== 0) {
    parameters.delete('page');
    parameters.set('offset', String(start));
  } else parameters.set('page', String(start / limit + 1));
  return `${path}?${parameters.toString()}`;
}
