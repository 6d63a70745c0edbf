import { linksAround, type Window } from '@ephoros/core/answer';

/** An answer that holds a window. */
interface Linked {
  readonly window: Window;
  readonly next: string | null;
  readonly previous: string | null;
}

/** Characters of a header that every proxy on the way lets pass. */
const mostCharacters = 2_048;

/**
 * The Link header of a window (RFC 8288): first, prev, next and last, as far as they are
 * known, in the spelling that the request used (page, offset or cursor). Undefined where it would
 * be long, since it repeats the whole question: the answer itself has the places.
 */
export function linkHeader(url: string, linked: Linked): string | undefined {
  const byOffset = /[?&]offset=/.test(url);
  const { first, previous, next, last } = linksAround(linked.window, linked, byOffset);
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

const places = new Set(['page', 'offset', 'after', 'before']);

/** Writes the same request at another place; the rest of it stays as it was spelled. */
function speller(url: string): (place: string) => string {
  const mark = url.indexOf('?');
  const path = mark === -1 ? url : url.slice(0, mark);
  const search = mark === -1 ? '' : url.slice(mark + 1);
  const remaining = search.split('&').filter((pair) => {
    const [name = ''] = pair.split('=');
    // The request was read already: its names can be decoded.
    return pair !== '' && !places.has(name.includes('%') ? decodeURIComponent(name) : name);
  });
  return (place) => {
    const parameters = place === '' ? remaining : [...remaining, place];
    return parameters.length === 0 ? path : `${path}?${parameters.join('&')}`;
  };
}
