/** What shows whether rows are moving. */
interface Place {
  readonly get: () => { readonly moving: boolean };
  readonly subscribe: (listener: () => void) => () => void;
}

/**
 * Marks the row that the pointer is over, while the rows are at rest. By `:hover` every row that passes below a
 * pointer would be styled twice, and laid out once more, in every frame of a scroll.
 */
export function followPointer(scroller: HTMLElement, place: Place, signal: AbortSignal): void {
  if (signal.aborted) return;
  let under: Element | null = null;
  let marked: Element | null = null;
  const put = (): void => {
    const row = place.get().moving ? null : under;
    if (row === marked) return;
    marked?.removeAttribute('data-over');
    row?.setAttribute('data-over', '');
    marked = row;
  };
  // The scroller itself, which is left, is in no row.
  const point = ({ target }: Event): void => {
    under = (target as Element).closest('.eph-row');
    put();
  };
  scroller.addEventListener('pointerover', point, { signal });
  scroller.addEventListener('pointerleave', point, { signal });
  signal.addEventListener('abort', place.subscribe(put));
}
