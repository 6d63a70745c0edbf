import { changed, printView, readView, type View } from '@ephoros/core/view';
import { useCallback, useMemo, useState, useSyncExternalStore } from 'react';
import type { AddressView } from './use-address-view.ts';
import type { ToldChange } from './use-view.ts';

/** How a table looks, as opposed to what it shows. */
const layout = ['columns', 'widths', 'pinned', 'density', 'reading', 'limit'] as const;

export interface StoredViewOptions {
  /** Parts of the view that are kept; by default columns, widths, pinned, density, reading, limit. */
  readonly parts?: readonly (keyof View)[];
}

/** A view of which parts are kept in the browser, as a table takes it. */
export type StoredView = Pick<AddressView, 'view' | 'onViewChange'> & Partial<AddressView>;

/**
 * Keeps how a table looks in this browser, under a name; what it shows begins anew, or is kept by
 * whoever keeps it: `useStoredView('locks', useAddressView())`. What the address says of the look
 * goes before what is kept here. Where the browser keeps nothing the page does, until it is left.
 */
export function useStoredView(
  name: string,
  given?: AddressView,
  { parts = layout }: StoredViewOptions = {},
): StoredView {
  const key = `ephoros.view.${name}`;
  const text = useSyncExternalStore(
    useCallback((listener: () => void) => stores.subscribe(key, listener), [key]),
    () => stores.read(key),
    () => '',
  );
  const stored = useMemo(() => viewIn(text), [text]);
  const [own, setOwn] = useState<View>({});
  const shown = given?.view ?? own;
  const view = useMemo(() => ({ ...stored, ...shown }), [stored, shown]);
  const names = parts.join();
  const tell = given?.onViewChange;
  const onViewChange = useCallback(
    (next: View, told: ToldChange): void => {
      const kept = names.split(',') as (keyof View)[];
      const now = new Set(told.parts.filter((part) => kept.includes(part)));
      if (now.size > 0) {
        const change = Object.fromEntries([...now].map((part) => [part, next[part]]));
        // As it is kept by now, which may be otherwise than it was drawn.
        stores.write(key, textOf(changed(viewIn(stores.read(key)), change)));
      }
      // What is kept here is no part of what is kept elsewhere; what was said there stays there.
      const rest = Object.entries(next).filter(([part]) => {
        const one = part as keyof View;
        return !kept.includes(one) || (!now.has(one) && shown[one] !== undefined);
      });
      const others = Object.fromEntries(rest) as View;
      if (tell === undefined) setOwn(others);
      else tell(others, told);
    },
    [key, names, shown, tell],
  );
  return { ...given, view, onViewChange };
}

/** What of a kept text can still be read. */
function viewIn(text: string): View {
  return readView(Object.fromEntries(new URLSearchParams(text))).view;
}

function textOf(view: View): string {
  return new URLSearchParams(printView(view)).toString();
}

/** What browsers keep, by its key; in the page alone where they do not. */
class Stores {
  private readonly here = new Map<string, string>();
  private readonly listeners = new Map<string, Set<() => void>>();

  read(key: string): string {
    const here = this.here.get(key);
    if (here !== undefined) return here;
    let text = '';
    try {
      text = localStorage.getItem(key) ?? '';
    } catch {
      // Nothing is kept where that is not allowed.
    }
    this.here.set(key, text);
    return text;
  }

  write(key: string, text: string): void {
    this.here.set(key, text);
    try {
      if (text === '') localStorage.removeItem(key);
      else localStorage.setItem(key, text);
    } catch {
      // Full, or not allowed: the page keeps it as long as it is there.
    }
    this.tell(key);
  }

  subscribe(key: string, listener: () => void): () => void {
    const all = this.listeners.get(key) ?? new Set();
    this.listeners.set(key, all.add(listener));
    // Another page of the same kind may change it.
    const elsewhere = (event: StorageEvent): void => {
      if (event.key !== null && event.key !== key) return;
      this.here.delete(key);
      listener();
    };
    window.addEventListener('storage', elsewhere);
    return () => {
      all.delete(listener);
      window.removeEventListener('storage', elsewhere);
    };
  }

  private tell(key: string): void {
    for (const listener of [...(this.listeners.get(key) ?? [])]) listener();
  }
}

const stores = new Stores();
