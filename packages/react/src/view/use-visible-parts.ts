import { useEffect, useState, type RefObject } from 'react';

/** Columns of one width that are visible: from `first` up to, not including, `end`. */
interface Seen {
  readonly first: number;
  readonly end: number;
}

/** Which columns of a width are visible next to what stays at the beginning, all in px. */
export function useVisibleParts(
  scroller: RefObject<HTMLElement | null>,
  width: number,
  margin: number,
): Seen {
  const [request, setVisible] = useState<Seen>({ first: 0, end: 4 });
  useEffect(() => {
    const element = scroller.current;
    if (element === null) return undefined;
    const check = (): void => {
      // From right to left the way is negative.
      const at = Math.abs(element.scrollLeft);
      const room = Math.max(0, element.clientWidth - margin);
      const next = { first: Math.floor(at / width), end: Math.ceil((at + room) / width) };
      setVisible((last) => (last.first === next.first && last.end === next.end ? last : next));
    };
    check();
    const observer = new ResizeObserver(check);
    observer.observe(element);
    element.addEventListener('scroll', check);
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', check);
    };
  }, [scroller, width, margin]);
  return request;
}
