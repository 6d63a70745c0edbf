import type { Drafts, DraftStore } from '@ephoros/client/drafts';
import type { OutlineSource, RowSource } from '@ephoros/client';
import type { TableDescription } from '@ephoros/core/schema';
import { useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { Later, useLater } from '../later.ts';
import { keptHere } from '../state/stores.ts';
import { isOutline } from '../table/row-at.ts';
import { useLatest } from '../use-latest.ts';
import type { AskedClient } from './asked-client.ts';

/** How rows are changed. */
export interface Editing {
  /** When drafts are saved: all `together`, when somebody says so, by default; or as one leaves a row or a cell. */
  readonly saving?: 'together' | 'row' | 'cell';
  /**
   * Whose drafts they are: they are kept in this browser until they are saved or dropped, apart from
   * those of others. False keeps them as long as the page is there.
   */
  readonly keep?: string | false;
}

/** Loaded with the first table that can be edited. */
const draftsPart = new Later(() => import('@ephoros/client/drafts'));

interface DraftsOptions {
  readonly editable: boolean | Editing | undefined;
  readonly client: AskedClient | undefined;
  readonly description: TableDescription | undefined;
  /** Something was saved. */
  readonly refresh: () => void;
}

/** What is drafted of a table; undefined where it cannot be edited, or not yet. */
export function useDrafts(options: DraftsOptions): Drafts | undefined {
  const { editable = false, client, description } = options;
  const { keep = '' } = typeof editable === 'object' ? editable : {};
  const changes = client?.changes;
  const wanted = editable !== false && changes !== undefined && description?.changes !== undefined;
  const part = useLater(draftsPart, wanted);
  const makes = wanted && part.state === 'ready' ? part.result.Drafts : undefined;
  const [inPage] = useState(() => new PageStore());
  const refresh = useLatest(options.refresh);
  const drafts = useMemo(() => {
    if (makes === undefined || changes === undefined || description === undefined) return undefined;
    const { name } = description;
    return new makes({
      table: description,
      save: (...rest) => changes.save(...rest),
      withdraw: (key) => changes.withdraw(key),
      page: pageName(),
      store: keep === false ? inPage : storeOf(`ephoros.drafts.${keep}.${name}.`),
      onSaved: () => refresh(),
    });
  }, [makes, changes, description, keep, inPage, refresh]);
  useEffect(() => drafts?.open(), [drafts]);
  return drafts;
}

/** A source with what is drafted of its rows. */
export function useDraftedSource(
  source: RowSource | OutlineSource,
  drafts: Drafts | undefined,
): RowSource | OutlineSource {
  const part = draftsPart.get();
  return useMemo(() => {
    if (drafts === undefined || part === undefined) return source;
    return isOutline(source)
      ? part.draftedOutline(source, drafts)
      : part.draftedRows(source, drafts);
  }, [source, drafts, part]);
}

const none = (): (() => void) => () => undefined;
const nothing = (): undefined => undefined;

/** The state of drafts; another one with each change. */
export function useDraftsState(
  drafts: Drafts | undefined,
): ReturnType<Drafts['state']> | undefined {
  return useSyncExternalStore(drafts?.subscribe ?? none, drafts?.state ?? nothing, nothing);
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
  const name = keptHere.read(pageKey) || Math.random().toString(36).slice(2);
  keptHere.write(pageKey, name);
  return name;
}

/** Stores texts as long as the page is there. */
class PageStore implements DraftStore {
  private readonly texts = new Map<string, string>();
  read = (): ReadonlyMap<string, string> => this.texts;
  write = (name: string, text: string | undefined): void => {
    if (text === undefined) this.texts.delete(name);
    else this.texts.set(name, text);
  };
}
