/** Ms without movement after which it is over. */
const rest = 120;

/**
 * Keeps the pinned cells of the rows in view while their scroller is moved sideways. A sticky cell
 * is a layer of its own in the browser, and so is each row behind it: dozens of layers to put
 * together in every frame. The cells are sticky only while there is movement sideways; at rest
 * they are put aside by as much as was scrolled, and all rows are one layer.
 */
export function followSideways(scroller: HTMLElement, signal: AbortSignal): void {
  let across = 0;
  let hidden = 0;
  let resting: ReturnType<typeof setTimeout> | undefined;

  const put = (): void => {
    const { scrollLeft, scrollWidth, clientWidth, style } = scroller;
    const furthest = scrollWidth - clientWidth;
    const left = furthest - Math.abs(scrollLeft);
    if (scrollLeft === across && left === hidden) return;
    across = scrollLeft;
    hidden = left;
    // In a mirrored table one scrolls from 0 down.
    const mirrored = getComputedStyle(scroller).direction === 'rtl';
    style.setProperty('--eph-across', `${scrollLeft}px`);
    style.setProperty('--eph-behind', `${mirrored ? left : -left}px`);
  };
  const settle = (): void => {
    put();
    delete scroller.dataset.sideways;
  };
  const move = (): void => {
    scroller.dataset.sideways = '';
    clearTimeout(resting);
    resting = setTimeout(settle, rest);
  };
  const follow = (): void => {
    if (scroller.scrollLeft !== across) move();
  };
  // The browser moves what it shows before it reports: what will move it is noticed ahead.
  const turn = ({ deltaX, deltaY, shiftKey }: WheelEvent): void => {
    if (shiftKey || Math.abs(deltaX) > Math.abs(deltaY)) move();
  };
  const press = ({ target, offsetY }: PointerEvent): void => {
    if (target === scroller && offsetY >= scroller.clientHeight) move();
  };

  scroller.addEventListener('scroll', follow, { signal });
  scroller.addEventListener('wheel', turn, { passive: true, signal });
  scroller.addEventListener('pointerdown', press, { signal });
  scroller.addEventListener('touchstart', move, { passive: true, signal });
  // Columns that grow or go are more or less to scroll over.
  const observer = new ResizeObserver(put);
  observer.observe(scroller);
  if (scroller.firstElementChild !== null) observer.observe(scroller.firstElementChild);
  signal.addEventListener('abort', () => {
    clearTimeout(resting);
    observer.disconnect();
  });
}
