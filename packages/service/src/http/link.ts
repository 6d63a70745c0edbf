import type { CheckedWindow } from '@ephoros/core/check';
import type { KnownTotal } from '../survey/index.ts';
import { type RowsWindow } from '../question/index.ts';

/** What a header of links is made of. */
export interface Linked {
  readonly query: CheckedWindow;
  /** Absent when nobody counted. */
  readonly total: Pick<KnownTotal, 'kind' | 'rows'> | undefined;
  readonly window: RowsWindow;
  /** Whether the window ended early, since an answer has no room for more bytes. */
  readonly cut?: boolean;
}

/** The windows around one, each as the parameter that leads there; empty for the first of all. */
export interface LinkPlaces {
  readonly first: string;
  readonly previous?: string;
  readonly next?: string;
  readonly last?: string;
}

/** Where the windows around one lie, as far as they are known. */
export function linkPlaces(
  { query, total, window, cut = false }: Linked,
  byOffset = false,
): LinkPlaces {
  const { offset, limit, beside } = query;
  const { rows, next, previous } = window;
  if (beside !== undefined) {
    return {
      first: '',
      ...(previous === null ? {} : { previous: `before=${previous}` }),
      ...(next === null ? {} : { next: `after=${next}` }),
    };
  }
  const at = (start: number): string =>
    byOffset || start % limit !== 0 ? `offset=${start}` : `page=${start / limit + 1}`;
  const ends = total?.kind === 'exact' ? total.rows : undefined;
  const more = ends === undefined ? rows.length === limit || cut : offset + rows.length < ends;
  return {
    first: at(0),
    ...(offset > 0 ? { previous: at(Math.max(0, offset - limit)) } : {}),
    ...(more && rows.length > 0 ? { next: at(offset + (cut ? rows.length : limit)) } : {}),
    ...(ends === undefined ? {} : { last: at(lastPageStart(ends, offset, limit)) }),
  };
}

/** Characters of a header that every proxy on the way lets pass. */
const mostCharacters = 2_048;

/**
 * The Link header of a window (RFC 8288): first, prev, next and last, as far as they are
 * known, in the spelling that the request used (page, offset or cursor). Undefined where it would
 * be long, since it repeats the whole question: the answer itself has the places.
 */
export function linkHeader(url: string, linked: Linked): string | undefined {
  const { first, previous, next, last } = linkPlaces(linked, /[?&]offset=/.test(url));
  const spell = speller(url);
  const header = [
    ['first', first],
    ['prev', previous],
    ['next', next],
    ['last', last],
  ]
    .flatMap(([relation, place]) =>
      place === undefined ? [] : [`<${spell(place)}>; rel="${relation}"`],
    )
    .join(', ');
  return header.length <= mostCharacters ? header : undefined;
}

/** The start of the last window that a walk in steps of `limit` from `offset` comes to. */
function lastPageStart(total: number, offset: number, limit: number): number {
  const phase = offset % limit;
  return Math.max(0, Math.floor((total - 1 - phase) / limit) * limit + phase);
}

const places = new Set(['page', 'offset', 'after', 'before']);

/** Writes the same request at another place; the rest of it stays as it was spelled. */
function speller(url: string): (place: string) => string {
  const mark = url.indexOf('?');
  const path = mark === -1 ? url : url.slice(0, mark);
  const search = mark === -1 ? '' : url.slice(mark + 1);
  const kept = search.split('&').filter((pair) => {
    const [name = ''] = pair.split('=');
    // The request was read already: its names can be decoded.
    return pair !== '' && !places.has(name.includes('%') ? decodeURIComponent(name) : name);
  });
  return (place) => {
    const parameters = place === '' ? kept : [...kept, place];
    return parameters.length === 0 ? path : `${path}?${parameters.join('&')}`;
  };
}
