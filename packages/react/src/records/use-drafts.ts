import type { Drafts } from '@ephoros/client/drafts';
import type { OutlineSource, RowSource } from '@ephoros/client';
import type { TableDescription } from '@ephoros/core/schema';
import { useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { Later, useLater } from '../later.ts';
import { isOutline } from '../table/row-at.ts';
import { useLatest } from '../use-latest.ts';
import type { RequestClient } from './request-client.ts';

/** How rows are changed. */
export interface Editing {
  /** When drafts are saved: all `together`, when somebody says so, by default; or as one leaves a row or a cell. */
  readonly saving?: 'together' | 'row' | 'cell';
  /**
   * Whose drafts they are: they are stored in this browser until they are saved or dropped, apart from
   * those of others. False keeps them as long as the page is there.
   */
  readonly keep?: string | false;
}

/** Loaded with the first table that can be edited. */
const draftsPart = new Later(() => import('./stored-drafts.ts'));

interface DraftsOptions {
  readonly editable: boolean | Editing | undefined;
  readonly client: RequestClient | undefined;
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
  const made = wanted && part.state === 'ready' ? part.result : undefined;
  const [inPage] = useState(() => new Map<string, string>());
  const refresh = useLatest(options.refresh);
  const drafts = useMemo(() => {
    if (made === undefined || changes === undefined || description === undefined) return undefined;
    const where = keep === false ? inPage : keep;
    return made.storedDrafts(changes, description, where, () => refresh());
  }, [made, changes, description, keep, inPage, refresh]);
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
