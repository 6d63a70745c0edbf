import { useEffect, type RefObject } from 'react';

/** Where "?" is a character, or belongs to something that is open. */
const elsewhere = 'input, textarea, select, [contenteditable], [role=dialog], [role=menu]';

/** Opens the list of keys with "?", wherever the focus is: for the view that has it, else for the first one. */
export function useHelpKey(area: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const open = (event: KeyboardEvent): void => {
      const target = event.target instanceof Element ? event.target : document.body;
      if (event.key !== '?' || event.defaultPrevented || target.closest(elsewhere)) return;
      const own = area.current?.closest('.eph-view');
      const meant = target.closest('.eph-view') ?? document.querySelector('.eph-view');
      if (own == null || own !== meant) return;
      event.preventDefault();
      own.querySelector<HTMLElement>('.eph-help')?.click();
    };
    document.addEventListener('keydown', open);
    return () => document.removeEventListener('keydown', open);
  }, [area]);
}
