import { ScrollScale } from '@ephoros/core/window';
import { useLayoutEffect, useMemo, useState, useSyncExternalStore, type RefObject } from 'react';
import { ScrollPlace } from './scroll-place.ts';
import { followSideways } from './sideways.ts';

/** Rows drawn above and below the view, so that a small movement shows no gap. */
const margin = 3;
/** Rows that the layer reaches over before it begins elsewhere. */
const layerRows = 1_000;

interface Viewport {
  readonly scale: ScrollScale;
  /** The room for rows, in px. */
  readonly height: number;
  /** The rows that stand in the page: from `first` up to, not including, `end`. */
  readonly first: number;
  readonly end: number;
  /** The rows that can be visible. */
  readonly firstVisible: number;
  readonly visibleEnd: number;
  /** The row at the top of the layer that the rows stand in, which is seldom another one. */
  readonly base: number;
  /** Px from the top of the view to the top of that layer. */
  readonly top: number;
  /** Px of rows above the view. */
  readonly above: number;
  /** Whether the view has been moved just now, and by more than its height at once. */
  readonly moving: boolean;
  readonly flying: boolean;
  /** What moves it. */
  readonly place: ScrollPlace;
}

/** Which of `rowCount` rows stand in a scroller's view, followed as it scrolls and resizes. */
export function useViewport(
  scroller: RefObject<HTMLElement | null>,
  rowCount: number,
  rowHeight: number,
  /** Px of the scroller that header and foot take. */
  taken: number,
): Viewport {
  const [place] = useState(() => new ScrollPlace());
  const position = useSyncExternalStore(place.subscribe, place.get, place.get);
  const height = Math.max(rowHeight, position.height - taken);
  const scale = useMemo(
    () => new ScrollScale(rowCount, rowHeight, height),
    [rowCount, rowHeight, height],
  );
  useLayoutEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const own = new AbortController();
    const { signal } = own;
    followSideways(element, signal);
    place.attach(element, signal);
    // Behind the first rows: nobody points at one yet. Without it no row is marked.
    void import('./pointed.ts').then(
      ({ followPointer }) => followPointer(element, place, signal),
      () => undefined,
    );
    return () => own.abort();
  }, [place, scroller]);
  useLayoutEffect(() => place.setScale(scale), [place, scale]);

  const above = scale.within(position.above);
  const firstVisible = Math.floor(above / rowHeight);
  const visibleEnd = Math.min(rowCount, Math.ceil((above + height) / rowHeight));
  const first = Math.max(0, firstVisible - margin);
  const base = first - (first % layerRows);
  return {
    ...position,
    scale,
    height,
    first,
    // Always as many: else a row would be taken out and made again every other frame.
    end: Math.min(rowCount, first + Math.ceil(height / rowHeight) + (1 + 2 * margin)),
    firstVisible,
    visibleEnd,
    base,
    top: base * rowHeight - above,
    above,
    place,
  };
}
