/** Reports in which column (counted from 0) a cell was pressed, if it was one. */
export function activateCell(target: EventTarget, activate: (column: number) => void): void {
  const cell = target instanceof Element ? target.closest('[aria-colindex]') : null;
  const column = Number(cell?.getAttribute('aria-colindex') ?? 0);
  if (column > 0) activate(column - 1);
}

/** Whether a button that is held down has left the cell where it was pressed; no text is marked then. */
export function isMarking({
  target,
  relatedTarget,
}: Pick<MouseEvent, 'target' | 'relatedTarget'>): boolean {
  const [to, from] = [target, relatedTarget].map((one) =>
    one instanceof Element ? one.closest('.eph-row > .eph-cell') : null,
  );
  if (to == null || from == null || from === to || to.querySelector('.eph-box') !== null)
    return false;
  getSelection()?.removeAllRanges();
  return true;
}

/** Whether a box, or what belongs to it, was pressed. */
export function isBox(target: EventTarget): boolean {
  return target instanceof Element && target.closest('.eph-box') !== null;
}
