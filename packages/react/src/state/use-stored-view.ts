import { changed, printView, readView, type View } from '@ephoros/core/view';
import { useCallback, useMemo, useState } from 'react';
import { browserStores, useStored } from './stores.ts';
import type { AddressView } from './use-address-view.ts';
import type { ViewChangeHandler } from './use-view.ts';

/** How a table looks, as opposed to what it shows. */
const layout = ['columns', 'widths', 'pinned', 'density', 'reading', 'limit'] as const;

export interface StoredViewOptions {
  /** Parts of the view that are stored; by default columns, widths, pinned, density, reading, limit. */
  readonly parts?: readonly (keyof View)[];
}

/** A view of which parts are cached in the browser, as a table takes it. */
export type StoredView = Pick<AddressView, 'view' | 'onViewChange'> & Partial<AddressView>;

/**
 * Keeps how a table looks in this browser, under a name; what it shows begins again, or is stored by
 * anyone who keeps it: `useStoredView('locks', useAddressView())`. What the address says of the look
 * goes before what is cached here. Where the browser keeps nothing the page does, until it is left.
 */
export function useStoredView(
  name: string,
  given?: AddressView,
  { parts = layout }: StoredViewOptions = {},
): StoredView {
  const key = `ephoros.view.${name}`;
  const [text] = useStored(browserStores, key);
  const stored = useMemo(() => viewIn(text), [text]);
  const [own, setOwn] = useState<View>({});
  const shown = given?.view ?? own;
  const view = useMemo(() => ({ ...stored, ...shown }), [stored, shown]);
  const names = parts.join();
  const notify = given?.onViewChange;
  const onViewChange = useCallback(
    (next: View, onChange: ViewChangeHandler): void => {
      const own = names.split(',') as (keyof View)[];
      const now = new Set(onChange.parts.filter((part) => own.includes(part)));
      if (now.size > 0) {
        const change = Object.fromEntries([...now].map((part) => [part, next[part]]));
        // As it is stored by now, which may be otherwise than it was drawn.
        browserStores.write(key, textOf(changed(viewIn(browserStores.read(key)), change)));
      }
      // What is cached here is no part of what is stored elsewhere; what was stated there stays there.
      const rest = Object.entries(next).filter(([part]) => {
        const one = part as keyof View;
        return !own.includes(one) || (!now.has(one) && shown[one] !== undefined);
      });
      const others = Object.fromEntries(rest) as View;
      if (notify === undefined) setOwn(others);
      else notify(others, onChange);
    },
    [key, names, shown, notify],
  );
  return { ...given, view, onViewChange };
}

/** What of a stored text can still be read. */
function viewIn(text: string): View {
  return readView(Object.fromEntries(new URLSearchParams(text))).view;
}

function textOf(view: View): string {
  return new URLSearchParams(printView(view)).toString();
}
