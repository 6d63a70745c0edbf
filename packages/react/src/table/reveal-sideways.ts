/** Scrolls sideways just as far as the active cell needs to be visible next to the pinned ones. */
export function revealSideways(scroller: HTMLElement | null, id: string): void {
  const cell = scroller?.ownerDocument.getElementById(id);
  if (!scroller || !cell || cell.dataset.pinned !== undefined) return;
  const roomAt = (side: string): number => {
    const pins = scroller.querySelectorAll<HTMLElement>(`.eph-head-cell[data-pinned=${side}]`);
    return [...pins].reduce((sum, pin) => sum + pin.offsetWidth, 0);
  };
  const [view, box] = [scroller.getBoundingClientRect(), cell.getBoundingClientRect()];
  const mirrored = getComputedStyle(scroller).direction === 'rtl';
  const [left, right] = mirrored
    ? [roomAt('end') + view.width - scroller.clientWidth, roomAt('start')]
    : [roomAt('start'), roomAt('end') + view.width - scroller.clientWidth];
  const from = view.left + left;
  const to = view.right - right;
  if (box.left < from) scroller.scrollLeft += box.left - from;
  else if (box.right > to) scroller.scrollLeft += Math.min(box.right - to, box.left - from);
}
