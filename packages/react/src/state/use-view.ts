import type { WrittenQuery } from '@ephoros/client';
import { changed, type View, type ViewChange } from '@ephoros/core/view';
import { useCallback, useLayoutEffect, useRef, useState } from 'react';

export interface ViewOptions {
  /** The view, where somebody else keeps it; it then follows `onViewChange` alone. */
  readonly view?: View | undefined;
  /** What the view is to begin with, where the table keeps it; its condition is no text. */
  readonly defaultView?: View | WrittenQuery | undefined;
  /** Called at every change. */
  readonly onViewChange?: ((view: View, change: ViewChangeHandler) => void) | undefined;
}

/** What is reported of a change, in addition to the whole view after it. */
export interface ViewChangeHandler {
  /** Which parts of the view differ. */
  readonly parts: readonly (keyof View)[];
  /** Whether it only keeps up with where one is: no step that one would go back. */
  readonly passing: boolean;
  /** Parameters that could not be read, and are mended or left out by it. */
  readonly mends: readonly string[];
}

/**
 * Changes a view: to another one, or to what a function makes of the one there is. For the options
 * see `ToldChange`; none by default.
 */
export type ChangeView = (
  change: ViewChange | ((view: View) => View),
  options?: Partial<Pick<ViewChangeHandler, 'passing' | 'mends'>>,
) => void;

/** A view as it is begun with. @throws where its condition is a text, which nobody reads here */
function viewOf(begun: ViewOptions['defaultView'] = {}): View {
  if (typeof begun.filter === 'string') throw new Error('A view has its condition by where().');
  return begun as View;
}

/** A view, which may be somebody else's. */
export function useView(options: ViewOptions): readonly [View, ChangeView] {
  const { view: given, defaultView, onViewChange } = options;
  const [own, setOwn] = useState<View>(() => viewOf(defaultView));
  const view = given ?? own;
  // Changes made between two drawings add up, where the view is cached here.
  const latest = useRef({ view, controlled: given !== undefined, onViewChange });
  useLayoutEffect(() => {
    latest.current = { view, controlled: given !== undefined, onViewChange };
  });
  const change = useCallback<ChangeView>((request, { passing = false, mends = [] } = {}) => {
    const { view: before, controlled, onViewChange: notify } = latest.current;
    const after = typeof request === 'function' ? request(before) : changed(before, request);
    const names = new Set([...Object.keys(before), ...Object.keys(after)]) as Set<keyof View>;
    const parts = [...names].filter((name) => !Object.is(before[name], after[name]));
    if (parts.length === 0 && mends.length === 0) return;
    if (!controlled) {
      latest.current = { ...latest.current, view: after };
      setOwn(after);
    }
    notify?.(after, { parts, passing, mends });
  }, []);
  return [view, change];
}
