import { useEffect, useState, type RefObject } from 'react';

/** Columns of one width that are seen: from `first` up to, not including, `end`. */
interface Seen {
  readonly first: number;
  readonly end: number;
}

/** Which columns of a width are seen beside what stays at the beginning, all in px. */
export function useSeen(
  scroller: RefObject<HTMLElement | null>,
  width: number,
  beside: number,
): Seen {
  const [seen, setSeen] = useState<Seen>({ first: 0, end: 4 });
  useEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const look = (): void => {
      // From right to left the way is negative.
      const at = Math.abs(element.scrollLeft);
      const room = Math.max(0, element.clientWidth - beside);
      const next = { first: Math.floor(at / width), end: Math.ceil((at + room) / width) };
      setSeen((last) => (last.first === next.first && last.end === next.end ? last : next));
    };
    look();
    const observer = new ResizeObserver(look);
    observer.observe(element);
    element.addEventListener('scroll', look);
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', look);
    };
  }, [scroller, width, beside]);
  return seen;
}
