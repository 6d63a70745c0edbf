import { useLayoutEffect, useRef, type ReactElement, type ReactNode } from 'react';

/** What can have the keyboard. */
const focusable = 'a[href], button, input, select, textarea, [tabindex]:not([tabindex="-1"])';

/**
 * A cell that a program draws. What is in it is no stop of the Tab key: the keyboard comes there by
 * the grid's own keys, Enter and F2.
 */
export function CellContent({ children }: { readonly children: ReactNode }): ReactElement {
  const element = useRef<HTMLSpanElement>(null);
  useLayoutEffect(() => {
    for (const inside of element.current?.querySelectorAll<HTMLElement>(focusable) ?? []) {
      inside.tabIndex = -1;
    }
  });
  return (
    <span ref={element} className="eph-own">
      {children}
    </span>
  );
}
