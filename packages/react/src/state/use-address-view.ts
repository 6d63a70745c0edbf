import {
  printView,
  readView,
  viewParameters,
  type ReadView,
  type View,
  type ViewTexts,
} from '@ephoros/core/view';
import { useCallback, useMemo, useSyncExternalStore } from 'react';
import type { ViewChangeHandler, ViewOptions } from './use-view.ts';
import { textsIn } from './view-texts.ts';

/** A view that is stored in the address, as a table takes it. */
export interface AddressView extends ReadView {
  readonly texts: ViewTexts;
  readonly onViewChange: NonNullable<ViewOptions['onViewChange']>;
}

/** Characters that the open groups have room for. */
const mostOpen = 600;

/**
 * Keeps a view in the page's address: reload, back and forward show the same. Further parameters of
 * the address stay as they are. Give what comes back to a table.
 */
export function useAddressView(): AddressView {
  const search = useSyncExternalStore(subscribe, searchNow, () => '');
  const texts = useMemo(() => textsIn(search), [search]);
  const { view, problems } = useMemo(() => readView(texts), [texts]);
  const onViewChange = useCallback(
    (next: View, { passing, mends }: ViewChangeHandler): void => {
      // What could not be read stays as it was written, until it is mended or left out.
      const unread = problems
        .map(({ parameter = '' }) => parameter)
        .filter((name) => !mends.includes(name));
      const path = addressOf(next, new Set(unread), texts);
      if (path === window.location.href) return;
      // Where one is, is no step of the browser's history.
      window.history[passing ? 'replaceState' : 'pushState'](window.history.state, '', path);
      for (const listener of [...listeners]) listener();
    },
    [problems, texts],
  );
  return { view, onViewChange, problems, texts };
}

/**
 * A parameter of the page's address that is no part of a view; undefined where it is not there. A
 * change of it is no step of the browser's history.
 */
export function useAddressText(
  name: string,
): readonly [string | undefined, (text: string | undefined) => void] {
  const search = useSyncExternalStore(subscribe, searchNow, () => '');
  const set = useCallback(
    (text: string | undefined) => {
      const address = new URL(window.location.href);
      if (text === undefined) address.searchParams.delete(name);
      else address.searchParams.set(name, text);
      window.history.replaceState(window.history.state, '', address);
      for (const listener of [...listeners]) listener();
    },
    [name],
  );
  return [new URLSearchParams(search).get(name) ?? undefined, set];
}

const listeners = new Set<() => void>();

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener('popstate', listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener('popstate', listener);
  };
}

const searchNow = (): string => window.location.search;

/** The page's address with another view; readable: only what must be is escaped. */
function addressOf(view: View, unread: ReadonlySet<string>, texts: ViewTexts): string {
  const { origin, pathname, search, hash } = window.location;
  const own = new Set<string>(viewParameters);
  const others = [...new URLSearchParams(search)].filter(([name]) => !own.has(name));
  const printed = printView(view).filter(
    ([name, text]) => name !== 'open' || (text !== '[]' && text.length <= mostOpen),
  );
  const names = new Set<string>(printed.map(([name]) => name));
  const left = Object.entries(texts).filter(([name]) => unread.has(name) && !names.has(name));
  const parts = [...others, ...printed, ...left].map(
    ([name, text]) => `${encodeURIComponent(name)}=${escaped(text)}`,
  );
  return `${origin}${pathname}${parts.length === 0 ? '' : `?${parts.join('&')}`}${hash}`;
}

function escaped(text: string): string {
  return encodeURIComponent(text).replaceAll('%20', '+');
}
