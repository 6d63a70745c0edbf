import type { CheckedWindow } from '@ephoros/core/check';
import type { KnownTotal } from '../survey/index.ts';
import { type RowsWindow } from '../question/index.ts';

/** What a header of links is made of. */
export interface Linked {
  readonly query: CheckedWindow;
  /** Absent when nobody counted. */
  readonly total: Pick<KnownTotal, 'kind' | 'rows'> | undefined;
  readonly window: RowsWindow;
}

/**
 * The Link header of a window (RFC 8288): first, prev, next and last, as far as they are
 * known, in the spelling that the request used (page, offset or cursor).
 */
export function linkHeader(url: string, { query, total, window }: Linked): string {
  const { offset, limit, beside } = query;
  const { rows, next, previous } = window;
  const spell = speller(url);
  if (beside !== undefined) {
    return links([
      ['first', spell()],
      ['prev', previous === null ? undefined : spell(`before=${previous}`)],
      ['next', next === null ? undefined : spell(`after=${next}`)],
    ]);
  }
  const byOffset = /[?&]offset=/.test(url);
  const at = (start: number): string =>
    byOffset || start % limit !== 0 ? spell(`offset=${start}`) : spell(`page=${start / limit + 1}`);
  const ends = total?.kind === 'exact' ? total.rows : undefined;
  const more = ends === undefined ? rows.length === limit : offset + rows.length < ends;
  return links([
    ['first', at(0)],
    ['prev', offset > 0 ? at(Math.max(0, offset - limit)) : undefined],
    ['next', more && rows.length > 0 ? at(offset + limit) : undefined],
    ['last', ends === undefined ? undefined : at(lastPageStart(ends, offset, limit))],
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

const places = new Set(['page', 'offset', 'after', 'before']);

/** Writes the same request at another place; the rest of it stays as it was spelled. */
function speller(url: string): (place?: string) => string {
  const [path = '', search = ''] = url.split('?');
  const kept = search.split('&').filter((pair) => {
    const [name = ''] = pair.split('=');
    // The request was read already: its names can be decoded.
    return pair !== '' && !places.has(name.includes('%') ? decodeURIComponent(name) : name);
  });
  return (place) => {
    const parameters = place === undefined ? kept : [...kept, place];
    return parameters.length === 0 ? path : `${path}?${parameters.join('&')}`;
  };
}
