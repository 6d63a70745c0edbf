import type { RulerMark } from '@ephoros/core/window';
import {
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent,
  type ReactElement,
} from 'react';

import { useMessages } from '../messages/use-messages.ts';

/** Px from one label to the next. */
const labelHeight = 28;

/** What the strip next to the scroll bar says. */
export interface RulerContent {
  /** Labels and the rows that they begin at, where so many have room next to each other. */
  readonly marks: (room: number) => readonly RulerMark[];
  /** Stands at the foot while the marks are not all there: why. */
  readonly note?: string | undefined;
  /** What is at a row, such as "3 May 2023"; undefined where nobody knows yet. */
  readonly labelAt: (row: number) => string | undefined;
  /** The locale of row numbers. */
  readonly locale: string;
}

/** Where the view is, as a table shows what stands next to its scroll bar. */
export interface RulerPlace {
  readonly rowCount: number;
  /** The rows in view. */
  readonly firstVisible: number;
  readonly visibleEnd: number;
  /** Whether the view is flying, so that the label is wanted. */
  readonly flying: boolean;
  readonly goTo: (row: number) => void;
}

export interface RulerProps extends RulerPlace {
  readonly content: RulerContent;
}

/**
 * The strip next to the scroll bar: which values lie where. Pressed and dragged it moves the view,
 * and a label says where one is.
 */
export function Ruler(props: RulerProps): ReactElement {
  const { content, rowCount, firstVisible, visibleEnd, flying, goTo } = props;
  const { marks, note, labelAt, locale } = content;
  const strip = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(0);
  useLayoutEffect(() => {
    const element = strip.current;
    if (element === null) return undefined;
    const observer = new ResizeObserver(() => setHeight(element.clientHeight));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const [dragged, setDragged] = useState(false);
  const share = (row: number): string => shareOf(row, rowCount);
  const shownMarks = useMemo(
    () =>
      marks(Math.floor(height / labelHeight)).map(({ offset, text }) => (
        <span key={offset} className="eph-ruler-mark" style={{ top: shareOf(offset, rowCount) }}>
          {text}
        </span>
      )),
    [marks, height, rowCount],
  );
  const drag = ({ clientY }: PointerEvent): void => {
    const box = strip.current?.getBoundingClientRect();
    if (box === undefined || box.height === 0) return;
    const part = Math.min(1, Math.max(0, (clientY - box.top) / box.height));
    goTo(Math.min(rowCount - 1, Math.floor(part * rowCount)));
  };
  const messages = useMessages();
  return (
    <div
      ref={strip}
      className="eph-ruler"
      aria-hidden="true"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setDragged(true);
        drag(event);
      }}
      onPointerMove={(event) => {
        if (dragged) drag(event);
      }}
      onPointerUp={() => setDragged(false)}
      onPointerCancel={() => setDragged(false)}
    >
      {note !== undefined && <p className="eph-ruler-note">{note}</p>}
      {shownMarks}
      <i
        className="eph-ruler-place"
        style={{ top: share(firstVisible), height: share(visibleEnd - firstVisible) }}
      />
      {(flying || dragged) && (
        <b className="eph-ruler-label" style={{ top: share(firstVisible) }}>
          {[messages.row((firstVisible + 1).toLocaleString(locale)), labelAt(firstVisible)]
            .filter((part) => part !== undefined)
            .join(' · ')}
        </b>
      )}
    </div>
  );
}

function shareOf(row: number, rowCount: number): string {
  return `${(100 * row) / Math.max(1, rowCount)}%`;
}
