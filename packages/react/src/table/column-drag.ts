import type { TableColumn } from './column.ts';

/** A header cell that is drawn to another place: `to` is the place before which it would stand. */
export interface Drag {
  readonly from: number;
  readonly to: number;
}

interface DragOptions {
  readonly columns: readonly TableColumn[];
  /** The row of header cells. */
  readonly row: HTMLElement;
  /** Where the pointer was pressed, in px, and on what. */
  readonly x: number;
  readonly target: Element;
  /** Called at every change; with undefined at the end. */
  readonly show: (drag: Drag | undefined) => void;
  /** A column shall stand before another one, or at the end. */
  readonly move: (column: string, before: string | undefined) => void;
}

/** Px that the pointer moves before a press is a drag. */
const still = 6;
/** Px at either edge of the view within which it scrolls sideways, and how far each time. */
const edge = 40;
const step = 16;

/**
 * Follows a pointer that was pressed on a header, until it is let go: the column moves among those
 * that stay in view, or among the others. Escape takes it back. A press that does not move is none
 * of its business.
 */
export function followDrag({ columns, row, x, target, show, move }: DragOptions): void {
  const from = placeOf(target.closest('.eph-head-cell'));
  if (from === undefined || !isMovable(columns[from])) return;
  let drag: Drag | undefined;
  const end = new AbortController();
  const { signal } = end;
  const stop = (): void => {
    end.abort();
    show(undefined);
  };
  const follow = ({ clientX, buttons }: PointerEvent): void => {
    // Let go of where nobody could tell.
    if ((buttons & 1) === 0) {
      stop();
      return;
    }
    if (drag === undefined && Math.abs(clientX - x) < still) return;
    scrollNear(row.closest('.eph-table'), clientX);
    drag = { from, to: placeAt(row, clientX, from, columns) };
    show(drag);
  };
  const finish = (): void => {
    stop();
    if (drag === undefined) return;
    // The click that ends a drag sorts nothing.
    const swallow = (event: MouseEvent): void => event.stopPropagation();
    window.addEventListener('click', swallow, { capture: true, once: true });
    setTimeout(() => window.removeEventListener('click', swallow, { capture: true }));
    const name = columns[from]?.name;
    if (name !== undefined && drag.to !== from) move(name, columns[drag.to]?.name);
  };
  window.addEventListener('pointermove', follow, { signal });
  window.addEventListener('pointerup', finish, { signal });
  window.addEventListener('pointercancel', stop, { signal });
  window.addEventListener('keydown', ({ key }) => key === 'Escape' && stop(), { signal });
}

/** The boxes of a selection, and the column of an outline, stay where they are. */
function isMovable(column: TableColumn | undefined): boolean {
  return column !== undefined && column.name !== '' && column.outline !== true;
}

function placeOf(cell: Element | null): number | undefined {
  const index = cell?.getAttribute('aria-colindex');
  return index === null || index === undefined ? undefined : Number(index) - 1;
}

/** The place before which the pointer is, among the columns of the same kind. */
function placeAt(
  row: HTMLElement,
  x: number,
  from: number,
  columns: readonly TableColumn[],
): number {
  const side = columns[from]?.pinned ?? false;
  const mirrored = getComputedStyle(row).direction === 'rtl';
  const places = columns.flatMap((column, place) =>
    isMovable(column) && (column.pinned ?? false) === side ? [place] : [],
  );
  const cells = row.querySelectorAll('.eph-head-cell');
  let to = (places.at(-1) ?? from) + 1;
  for (const place of [...places].reverse()) {
    const box = cells[place]?.getBoundingClientRect();
    if (box === undefined) continue;
    const middle = box.left + box.width / 2;
    if (mirrored ? x > middle : x < middle) to = place;
  }
  // Just behind itself it stands where it stood.
  return to === from + 1 ? from : to;
}

function scrollNear(scroller: Element | null, x: number): void {
  if (scroller === null) return;
  const { left, right } = scroller.getBoundingClientRect();
  if (x < left + edge) scroller.scrollBy({ left: -step });
  else if (x > right - edge) scroller.scrollBy({ left: step });
}
