import type { OutlineSource } from '@ephoros/client';
import { useEffect, useRef, useSyncExternalStore } from 'react';
import { useModel } from '../parts/table-context.ts';
import type { VisibleRows } from '../table/visible-rows.ts';
import { useSource } from '../use-source.ts';

/** Ms at rest before the view says where one is. */
const rest = 250;

interface KeptPlaceProps {
  readonly visible: VisibleRows;
  /** Whether it is known how many rows there are. */
  readonly known: boolean;
}

/** Keeps in the view which row of one long scroll is the first one seen. */
export function ContextTarget({ visible, known }: KeptPlaceProps): null {
  const { view, change } = useModel();
  const { first } = useSyncExternalStore(visible.subscribe, visible.get, visible.get);
  const offset = view.place?.kind === 'offset' ? view.place.offset : 0;
  const settled = useRef(false);
  useEffect(() => {
    if (!known) return undefined;
    // The place that the view begins at is gone to first.
    const arriving = !settled.current && offset !== 0 && first === 0;
    settled.current = true;
    if (arriving || first === offset) return undefined;
    const place = first === 0 ? undefined : { kind: 'offset' as const, offset: first };
    const timer = setTimeout(() => change({ place }, { passing: true }), rest);
    return () => clearTimeout(timer);
  }, [known, first, offset, change]);
  return null;
}

/** Keeps in the view which groups of an outline are open. */
export function KeptOpen({ source }: { readonly source: OutlineSource }): null {
  const { view, change } = useModel();
  useSource(source);
  const generation = source.generation();
  const open = JSON.stringify(view.open ?? []);
  useEffect(() => {
    // Nothing was opened or closed yet: what the view says is still to be opened.
    if (generation === 0) return undefined;
    const groups = source.openGroups();
    if (JSON.stringify(groups) === open) return undefined;
    const next = groups.length === 0 ? undefined : groups;
    const timer = setTimeout(() => change({ open: next }, { passing: true }), rest);
    return () => clearTimeout(timer);
  }, [generation, open, change, source]);
  return null;
}
