import type { OutlineSource, Row, RowSource } from '@ephoros/client';
import { useEffect, useLayoutEffect, useReducer, useState } from 'react';
import type { TableColumn } from './column.ts';
import { rowAt } from './row-at.ts';

/** Cells that are filled in one frame while rows pass by. */
const cellsInFrame = 80;

/** What a place shows. */
interface FilledRow {
  readonly place: number;
  /** The element of the page that it stands in: the same as long as the place is drawn. */
  readonly slot: number;
  /** Undefined while it is on its way, or has to wait for its turn. */
  readonly row: Row | undefined;
  /** What stood there before and is only hidden: its cells would be built again the next moment. */
  readonly hidden: Row | undefined;
}

/** What is shown, how many rows are new, and whether some have come and wait for the next frame. */
export interface FilledRows {
  readonly chosen: readonly FilledRow[];
  readonly fresh: number;
  readonly held: boolean;
}

interface Drawing {
  readonly source: RowSource | OutlineSource;
  readonly columns: readonly TableColumn[];
  readonly moving: boolean;
}

/** What was drawn last, and how much more may be in this frame. */
class Filled {
  private last: Drawing | undefined;
  private drawn: readonly FilledRow[] = [];
  private spent = 0;
  /** The frame in which so many rows were filled. */
  private time: CSSNumberish | null = null;
  private held = false;
  private frame = 0;

  constructor(private readonly drawAgain: () => void) {}

  /** What each place shows, from `first` up to, not including, `end`. */
  choose(first: number, end: number, offset: number, drawing: Drawing): FilledRows {
    const { source, columns, moving } = drawing;
    const last = this.last;
    // What a row held is drawn by the same columns only: others may want what it has not.
    const drawnAlike = last?.source === source && last.columns === columns;
    const most = Math.ceil(cellsInFrame / Math.max(1, columns.length));
    const room = moving ? most - (this.time === frameTime() ? this.spent : 0) : Infinity;
    const inSlots = new Map(this.drawn.map((one) => [one.slot, one]));
    const slots = new Map(this.drawn.map(({ place, slot }) => [place, slot]));
    const places = Array.from({ length: end - first }, (_, index) => first + index);
    const taken = new Set(places.map((place) => slots.get(place)));
    let fresh = 0;
    let held = false;
    let free = 0;
    const chosen = places.map((place): FilledRow => {
      // A row that leaves makes room for one that comes: nothing is built again.
      while (taken.has(free)) free += 1;
      const slot = slots.get(place) ?? free++;
      const there = rowAt(source, offset + place);
      const before = inSlots.get(slot);
      const stood = before?.place === place && before.row !== undefined;
      const row = stood || fresh < room ? there : undefined;
      if (row !== undefined && !stood) fresh += 1;
      if (row === undefined && there !== undefined) held = true;
      const hides = row === undefined && moving && drawnAlike;
      return { place, slot, row, hidden: hides ? (before?.row ?? before?.hidden) : undefined };
    });
    return { chosen, fresh, held };
  }

  /** Remembers what was drawn. What had to wait comes with the next frame. */
  keep({ chosen, fresh, held }: FilledRows, drawing: Drawing): void {
    this.held = held;
    this.drawn = chosen;
    this.last = drawing;
    const time = frameTime();
    this.spent = fresh + (this.time === time ? this.spent : 0);
    this.time = time;
    if (this.held && this.frame === 0) this.frame = requestAnimationFrame(this.next);
  }

  stop = (): void => {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
  };

  private readonly next = (): void => {
    // What is requested before a frame is drawn comes in the same one.
    if (this.time === frameTime()) {
      this.frame = requestAnimationFrame(this.next);
      return;
    }
    this.frame = 0;
    if (this.held) this.drawAgain();
  };
}

/** The same for all that is done for one frame. */
function frameTime(): CSSNumberish | null {
  return document.timeline.currentTime;
}

/**
 * What each place of the table shows. While it moves, a screen of rows that has just come is filled
 * over several frames, the first ones first: all at once would take longer than a frame has; and
 * what is not there yet hides what stood there. At rest every row is shown at once, and nothing
 * else.
 */
export function useFilledRows(
  first: number,
  end: number,
  offset: number,
  drawing: Drawing,
): FilledRows {
  const [, drawAgain] = useReducer((count: number) => count + 1, 0);
  const [filled] = useState(() => new Filled(drawAgain));
  const rows = filled.choose(first, end, offset, drawing);
  useLayoutEffect(() => filled.keep(rows, drawing));
  useEffect(() => filled.stop, [filled]);
  return rows;
}
