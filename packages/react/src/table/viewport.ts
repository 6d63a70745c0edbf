import { ScrollScale } from '@ephoros/core/window';
import { useCallback, useLayoutEffect, useMemo, useState, type RefObject } from 'react';

/** Rows drawn above and below the view, so that a small movement shows no gap. */
const margin = 6;

interface Viewport {
  readonly scale: ScrollScale;
  /** The rows that stand in the page: from `first` up to, not including, `end`. */
  readonly first: number;
  readonly end: number;
  /** The rows that can be seen. */
  readonly seenFirst: number;
  readonly seenEnd: number;
  /** Where a row is drawn, in px from the top of the scrolled element. */
  readonly topOf: (row: number) => number;
  /** Scrolls just as far as a row needs to be seen whole. */
  readonly reveal: (row: number) => void;
}

/** Which of `rowCount` rows stand in a scroller's view, followed as it scrolls and resizes. */
export function useViewport(
  scroller: RefObject<HTMLElement | null>,
  rowCount: number,
  rowHeight: number,
  headerHeight: number,
): Viewport {
  const [position, setPosition] = useState({ scrollTop: 0, height: 600 });
  useLayoutEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const follow = (): void => {
      const { scrollTop, clientHeight } = element;
      setPosition((last) =>
        last.scrollTop === scrollTop && last.height === clientHeight
          ? last
          : { scrollTop, height: clientHeight },
      );
    };
    follow();
    element.addEventListener('scroll', follow, { passive: true });
    const observer = new ResizeObserver(follow);
    observer.observe(element);
    return () => {
      element.removeEventListener('scroll', follow);
      observer.disconnect();
    };
  }, [scroller]);

  const viewHeight = Math.max(rowHeight, position.height - headerHeight);
  const scale = useMemo(
    () => new ScrollScale(rowCount, rowHeight, viewHeight),
    [rowCount, rowHeight, viewHeight],
  );
  const { scrollTop } = position;
  const above = scale.rowsAbove(scrollTop);
  const seenFirst = Math.min(rowCount, Math.floor(above / rowHeight));
  const seenEnd = Math.min(rowCount, Math.ceil((above + viewHeight) / rowHeight));
  const reveal = useCallback(
    (row: number): void => {
      const element = scroller.current;
      if (element === null) return;
      const now = scale.rowsAbove(element.scrollTop);
      const top = row * rowHeight;
      const bottom = top + rowHeight - viewHeight;
      if (top < now) element.scrollTop = scale.scrollTopFor(top);
      else if (bottom > now) element.scrollTop = scale.scrollTopFor(bottom);
    },
    [scroller, scale, rowHeight, viewHeight],
  );
  return {
    scale,
    first: Math.max(0, seenFirst - margin),
    end: Math.min(rowCount, seenEnd + margin),
    seenFirst,
    seenEnd,
    topOf: (row) => scrollTop + row * rowHeight - above,
    reveal,
  };
}
