import type { ChangesClient } from '@ephoros/client';
import { Drafts, type DraftStore } from '@ephoros/client/drafts';
import type { TableDescription } from '@ephoros/core/schema';
import { browserStore } from '../state/stores.ts';

export { draftedOutline, draftedRows } from '@ephoros/client/drafts';

/** What stores the drafts of a table: this browser, apart from others by a name; or the page. */
export type KeptIn = string | Map<string, string>;

/** The drafts of a table, where they are stored. */
export function storedDrafts(
  changes: ChangesClient,
  table: TableDescription,
  stores: KeptIn,
  onSaved: () => void,
): Drafts {
  return new Drafts({
    table,
    save: (...rest) => changes.save(...rest),
    withdraw: (key) => changes.withdraw(key),
    page: pageName(),
    store:
      typeof stores === 'string'
        ? storeOf(`ephoros.drafts.${stores}.${table.name}.`)
        : pageStore(stores),
    onSaved,
  });
}

/** A text for each row, in the browser's storage. */
function storeOf(prefix: string): DraftStore {
  return {
    read: () => {
      const found = new Map<string, string>();
      for (const key of keysOf(localStorage)) {
        if (!key.startsWith(prefix)) continue;
        const text = localStorage.getItem(key);
        if (text !== null) found.set(key.slice(prefix.length), text);
      }
      return found;
    },
    write: (name, text) => {
      if (text === undefined) localStorage.removeItem(prefix + name);
      else localStorage.setItem(prefix + name, text);
    },
    subscribe: (listener) => {
      const hear = ({ key }: StorageEvent): void => {
        if (key === null || key.startsWith(prefix)) listener();
      };
      window.addEventListener('storage', hear);
      return () => window.removeEventListener('storage', hear);
    },
  };
}

function keysOf(storage: Storage): readonly string[] {
  return Array.from({ length: storage.length }, (_, index) => storage.key(index) ?? '');
}

const pageKey = 'ephoros.page';

/** The name of this tab of the browser; the same when its page is loaded again. */
function pageName(): string {
  const name = browserStore.read(pageKey) || Math.random().toString(36).slice(2);
  browserStore.write(pageKey, name);
  return name;
}

/** Stores texts as long as the page is there. */
function pageStore(texts: Map<string, string>): DraftStore {
  return {
    read: () => texts,
    write: (name, text) => {
      if (text === undefined) texts.delete(name);
      else texts.set(name, text);
    },
  };
}
