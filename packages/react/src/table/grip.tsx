import { useRef, type PointerEvent, type ReactElement } from 'react';
import type { TableColumn } from './column.ts';

/** Px that a column can be, where it says nothing else. */
const narrowest = 48;
const widest = 1_200;

/** A width as a column allows it. */
export function widthWithin(width: number, { minWidth, maxWidth }: Partial<TableColumn>): number {
  return Math.round(Math.min(maxWidth ?? widest, Math.max(minWidth ?? narrowest, width)));
}

interface GripProps {
  readonly column: TableColumn;
  readonly onResize: (column: string, width: number) => void;
  readonly onFit: (column: string) => void;
}

/** The edge of a header cell: drawn, the column is wider or narrower; pressed twice, it fits. */
export function Grip({ column, onResize, onFit }: GripProps): ReactElement {
  const start = useRef<{ x: number; width: number; sign: number }>(undefined);
  const follow = ({ clientX }: PointerEvent): void => {
    if (start.current === undefined) return;
    const { x, width, sign } = start.current;
    onResize(column.name, widthWithin(width + sign * (clientX - x), column));
  };
  const end = (): void => {
    start.current = undefined;
  };
  return (
    <span
      className="eph-grip"
      aria-hidden="true"
      onPointerDown={(event) => {
        event.preventDefault();
        event.currentTarget.setPointerCapture(event.pointerId);
        const cell = event.currentTarget.parentElement;
        const sign = getComputedStyle(event.currentTarget).direction === 'rtl' ? -1 : 1;
        start.current = { x: event.clientX, width: cell?.offsetWidth ?? column.width, sign };
      }}
      onDoubleClick={() => onFit(column.name)}
      onPointerMove={follow}
      onPointerUp={end}
      onPointerCancel={end}
    />
  );
}
