import type { RowsAnswer } from './answer.ts';

/**
 * The Link header of a rows answer (RFC 8288): first, prev, next and last, as far as they are
 * known, in the spelling that the request used (page, offset or cursor).
 */
export function linkHeader(url: string, { query, total, window }: RowsAnswer): string {
  const { offset, limit, beside } = query;
  const { rows, next, previous } = window;
  if (beside !== undefined) {
    return links([
      ['first', spell(url, {})],
      ['prev', previous === null ? undefined : spell(url, { before: previous })],
      ['next', next === null ? undefined : spell(url, { after: next })],
    ]);
  }
  const ends = total?.kind === 'exact' ? total.rows : undefined;
  const more = ends === undefined ? rows.length === limit : offset + rows.length < ends;
  return links([
    ['first', at(url, 0, limit)],
    ['prev', offset > 0 ? at(url, Math.max(0, offset - limit), limit) : undefined],
    ['next', more && rows.length > 0 ? at(url, offset + limit, limit) : undefined],
    ['last', ends === undefined ? undefined : at(url, lastPageStart(ends, offset, limit), limit)],
  ]);
}

function links(places: readonly [string, string | undefined][]): string {
  return places
    .flatMap(([relation, url]) => (url === undefined ? [] : [`<${url}>; rel="${relation}"`]))
    .join(', ');
}

/** The start of the last window that a walk in steps of `limit` from `offset` comes to. */
function lastPageStart(total: number, offset: number, limit: number): number {
  const phase = offset % limit;
  return Math.max(0, Math.floor((total - 1 - phase) / limit) * limit + phase);
}

function at(url: string, start: number, limit: number): string {
  const byOffset = /[?&]offset=/.test(url) || start % limit !== 0;
  return spell(url, byOffset ? { offset: String(start) } : { page: String(start / limit + 1) });
}

/** The same request at another place. */
function spell(url: string, place: Readonly<Record<string, string>>): string {
  const [path = '', search = ''] = url.split('?');
  const parameters = new URLSearchParams(search);
  for (const name of ['page', 'offset', 'after', 'before']) parameters.delete(name);
  for (const [name, text] of Object.entries(place)) parameters.set(name, text);
  const written = parameters.toString();
  return written === '' ? path : `${path}?${written}`;
}
