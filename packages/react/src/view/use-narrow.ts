import { useLayoutEffect, useState, type RefObject } from 'react';

/** Px below which rows are cards: 34rem, as the stylesheet has it. */
const narrow = 544;

/** Whether what an element stands in is as narrow as a phone. */
export function useNarrow(within: RefObject<HTMLElement | null>): boolean {
  const [isNarrow, setNarrow] = useState(false);
  useLayoutEffect(() => {
    const around = within.current?.parentElement;
    if (around == null) return undefined;
    const measure = (): void => setNarrow(around.clientWidth > 0 && around.clientWidth < narrow);
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(around);
    return () => watch.disconnect();
  }, [within]);
  return isNarrow;
}
