/** Tells in which column (counted from 0) a cell was pressed, if it was one. */
export function activateCell(target: EventTarget, activate: (column: number) => void): void {
  const cell = target instanceof Element ? target.closest('[aria-colindex]') : null;
  const column = Number(cell?.getAttribute('aria-colindex') ?? 0);
  if (column > 0) activate(column - 1);
}
