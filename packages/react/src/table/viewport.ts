import { ScrollScale } from '@ephoros/core/window';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { RefObject } from 'react';
import { flushSync } from 'react-dom';

/** Rows drawn above and below the view, so that a small movement shows no gap. */
const margin = 3;
/** Rows that the layer reaches over before it begins elsewhere. */
const layerRows = 1_000;
/** Ms without movement after which the scroll bar is put right. */
const rest = 120;

interface Viewport {
  readonly scale: ScrollScale;
  /** The room for rows, in px. */
  readonly height: number;
  /** The rows that stand in the page: from `first` up to, not including, `end`. */
  readonly first: number;
  readonly end: number;
  /** Rows that may stand in the page at the same time. */
  readonly slots: number;
  /** The rows that can be seen. */
  readonly seenFirst: number;
  readonly seenEnd: number;
  /** The row at the top of the layer that the rows stand in, which is seldom another one. */
  readonly base: number;
  /** Px from the top of the view to the top of that layer. */
  readonly top: number;
  /** Whether the view has been moved just now. */
  readonly moving: boolean;
  /** Whether the view has just been moved by more than its height, as a drag of the bar does. */
  readonly flying: boolean;
  /** Scrolls just as far as a row needs to be seen whole. */
  readonly reveal: (row: number) => void;
  /** Scrolls so that a row is the first in view, as far as there are rows enough below it. */
  readonly goTo: (row: number) => void;
}

interface Position {
  /** Pixels of rows above the view. */
  readonly above: number;
  readonly height: number;
  readonly moving: boolean;
  readonly flying: boolean;
}

/**
 * Which of `rowCount` rows stand in a scroller's view, followed as it scrolls and resizes. The
 * position is kept in pixels of rows; the scroll bar, which may be scaled, follows it.
 */
export function useViewport(
  scroller: RefObject<HTMLElement | null>,
  rowCount: number,
  rowHeight: number,
  headerHeight: number,
): Viewport {
  const [position, setPosition] = useState<Position>({
    above: 0,
    height: 600,
    moving: false,
    flying: false,
  });
  const height = Math.max(rowHeight, position.height - headerHeight);
  const scale = useMemo(
    () => new ScrollScale(rowCount, rowHeight, height),
    [rowCount, rowHeight, height],
  );
  // What event handlers need, as it is now; `bar` is where the scroller was last found or put.
  const now = useRef({ above: 0, bar: 0, scale });

  // At rest the bar is put right, rows stand in their order, and no label is wanted any more.
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  const settle = useCallback((): void => {
    clearTimeout(resting.current);
    resting.current = setTimeout(() => {
      const element = scroller.current;
      const state = now.current;
      if (element === null) return;
      state.bar = state.scale.scrollTopFor(state.above);
      element.scrollTop = state.bar;
      setPosition((last) => (last.moving ? { ...last, moving: false, flying: false } : last));
    }, rest);
  }, [scroller]);
  useEffect(() => () => clearTimeout(resting.current), []);

  const moveTo = useCallback(
    (above: number, atOnce = false): void => {
      const element = scroller.current;
      const state = now.current;
      if (element === null) return;
      state.above = state.scale.within(above);
      state.bar = state.scale.scrollTopFor(state.above);
      element.scrollTop = state.bar;
      const move = (last: Position): Position => ({ ...last, above: state.above, moving: true });
      // A turn of the wheel and the rows it brings belong to the same frame.
      if (atOnce) flushSync(() => setPosition(move));
      else setPosition(move);
      settle();
    },
    [scroller, settle],
  );

  useFollowing(scroller, now, settle, setPosition);
  useWheel(scroller, now, rowHeight, moveTo);

  // Another number of rows is another scale: what is in view stays there.
  useLayoutEffect(() => {
    now.current.scale = scale;
    const { above, bar } = now.current;
    const element = scroller.current;
    if (element === null) return;
    const kept = scale.within(above);
    if (kept !== above || Math.abs(scale.scrollTopFor(kept) - bar) > 1) moveTo(kept);
  }, [scale, scroller, moveTo]);

  const above = scale.within(position.above);
  const seenFirst = Math.min(rowCount, Math.floor(above / rowHeight));
  const seenEnd = Math.min(rowCount, Math.ceil((above + height) / rowHeight));
  const reveal = useCallback(
    (row: number): void => {
      const { above: from, scale: current } = now.current;
      const top = row * rowHeight;
      const bottom = top + rowHeight - current.viewHeight;
      if (top < from) moveTo(top);
      else if (bottom > from) moveTo(bottom);
    },
    [moveTo, rowHeight],
  );
  const goTo = useCallback((row: number): void => moveTo(row * rowHeight), [moveTo, rowHeight]);
  const first = Math.max(0, seenFirst - margin);
  const base = first - (first % layerRows);
  return {
    scale,
    height,
    first,
    end: Math.min(rowCount, seenEnd + margin),
    slots: Math.ceil(height / rowHeight) + 1 + 2 * margin,
    seenFirst,
    seenEnd,
    base,
    top: base * rowHeight - above,
    moving: position.moving,
    flying: position.flying,
    reveal,
    goTo,
  };
}

interface Now {
  above: number;
  bar: number;
  scale: ScrollScale;
}

/** Follows what the browser itself scrolls (bar, finger), and the size. */
function useFollowing(
  scroller: RefObject<HTMLElement | null>,
  now: RefObject<Now>,
  settle: () => void,
  setPosition: (change: (last: Position) => Position) => void,
): void {
  useLayoutEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const resize = (): void => {
      const { clientHeight } = element;
      setPosition((last) =>
        last.height === clientHeight ? last : { ...last, height: clientHeight },
      );
    };
    const follow = (): void => {
      const state = now.current;
      const { scrollTop } = element;
      // Put there from here; the browser may have rounded it.
      if (Math.abs(scrollTop - state.bar) < 1) return;
      const { viewHeight } = state.scale;
      const flying = Math.abs(scrollTop - state.bar) > viewHeight;
      state.above = state.scale.scrolled(state.above, state.bar, scrollTop);
      state.bar = scrollTop;
      const { above } = state;
      flushSync(() => {
        setPosition((last) => ({ ...last, above, moving: true, flying: flying || last.flying }));
      });
      settle();
    };
    resize();
    element.addEventListener('scroll', follow, { passive: true });
    const observer = new ResizeObserver(resize);
    observer.observe(element);
    return () => {
      element.removeEventListener('scroll', follow);
      observer.disconnect();
    };
  }, [scroller, now, settle, setPosition]);
}

/** How much of the rest of its way a turn of the wheel goes in each frame. */
const glide = 0.3;

/**
 * Where the bar is scaled the browser's own wheel would fly over rows: there a turn of the wheel
 * moves the rows as it does everywhere else, pixel by pixel.
 */
function useWheel(
  scroller: RefObject<HTMLElement | null>,
  now: RefObject<Now>,
  rowHeight: number,
  moveTo: (above: number, atOnce: boolean) => void,
): void {
  useEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    let rest = 0;
    let frame = 0;
    const step = (): void => {
      // In whole pixels, so that parts add up to what was turned.
      const part = Math.abs(rest) <= 1 ? rest : Math.round(rest * glide) || Math.sign(rest);
      rest -= part;
      const { above, scale } = now.current;
      const to = scale.within(above + part);
      if (to === above) rest = 0;
      else moveTo(to, true);
      frame = rest === 0 ? 0 : requestAnimationFrame(step);
    };
    const turn = (event: WheelEvent): void => {
      const { scale } = now.current;
      const { deltaX, deltaY, deltaMode } = event;
      if (!scale.scaled || event.ctrlKey || event.shiftKey || deltaY === 0) return;
      if (Math.abs(deltaX) > Math.abs(deltaY)) return;
      event.preventDefault();
      const unit = [1, rowHeight, scale.viewHeight][deltaMode] ?? 1;
      rest += deltaY * unit;
      if (frame === 0) frame = requestAnimationFrame(step);
    };
    element.addEventListener('wheel', turn, { passive: false });
    return () => {
      cancelAnimationFrame(frame);
      element.removeEventListener('wheel', turn);
    };
  }, [scroller, now, rowHeight, moveTo]);
}
