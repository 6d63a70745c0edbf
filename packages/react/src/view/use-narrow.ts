import { useLayoutEffect, useState, type RefObject } from 'react';

/** Px below which rows are cards: 34rem, as the stylesheet has it. */
const narrow = 544;

/** Whether an element is as narrow as a phone. */
export function useNarrow(element: RefObject<HTMLElement | null>): boolean {
  const [isNarrow, setNarrow] = useState(false);
  useLayoutEffect(() => {
    const { current } = element;
    if (current === null) return undefined;
    const measure = (): void => setNarrow(current.clientWidth > 0 && current.clientWidth < narrow);
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(current);
    return () => watch.disconnect();
  }, [element]);
  return isNarrow;
}
