import { useCallback, useSyncExternalStore } from 'react';

/** What browsers keep, by its key; in the page alone where they do not. */
class Stores {
  private readonly storage: () => Storage;
  private readonly here = new Map<string, string>();
  private readonly listeners = new Map<string, Set<() => void>>();

  constructor(storage: () => Storage) {
    this.storage = storage;
  }

  read(key: string): string {
    const here = this.here.get(key);
    if (here !== undefined) return here;
    let text = '';
    try {
      text = this.storage().getItem(key) ?? '';
    } catch {
      // Nothing is stored where that is not allowed.
    }
    this.here.set(key, text);
    return text;
  }

  write(key: string, text: string): void {
    this.here.set(key, text);
    try {
      if (text === '') this.storage().removeItem(key);
      else this.storage().setItem(key, text);
    } catch {
      // Full, or not allowed: the page keeps it as long as it is there.
    }
    this.notify(key);
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

  private notify(key: string): void {
    for (const listener of [...(this.listeners.get(key) ?? [])]) listener();
  }
}

/** As long as the browser keeps things. */
export const browserStores = new Stores(() => localStorage);

/** As long as this window of the browser is open, also when its page is loaded again. */
export const browserStore = new Stores(() => sessionStorage);

/** What is stored there under a key, and a way to keep something else; a server keeps nothing. */
export function useStored(store: Stores, key: string): [string, (text: string) => void] {
  const text = useSyncExternalStore(
    useCallback((listener: () => void) => store.subscribe(key, listener), [store, key]),
    () => store.read(key),
    () => '',
  );
  return [text, useCallback((next: string) => store.write(key, next), [store, key])];
}
