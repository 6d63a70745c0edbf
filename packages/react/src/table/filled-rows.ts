import type { OutlineSource, Row, RowSource } from '@ephoros/client';
import { useEffect, useLayoutEffect, useReducer, useState } from 'react';
import type { TableColumn } from './column.ts';
import { rowAt } from './row-at.ts';

/** Cells that are filled in one frame while rows pass by. */
const cellsInFrame = 80;

/** What a place shows. */
interface FilledRow {
  /** Undefined while it is on its way, or has to wait for its turn. */
  readonly row: Row | undefined;
  /** What stood there before and is only hidden: its cells would be built anew the next moment. */
  readonly hidden: Row | undefined;
}

/** What is shown, and whether some rows have come and have to wait for the next frame. */
export interface FilledRows {
  readonly chosen: ReadonlyMap<number, FilledRow>;
  readonly held: boolean;
}

interface Drawing {
  readonly source: RowSource | OutlineSource;
  readonly columns: readonly TableColumn[];
  /** Rows that may stand in the page at the same time: places that differ by so many share a slot. */
  readonly slots: number;
  readonly moving: boolean;
}

/** What was drawn last, and how much more may be in this frame. */
class Filled {
  private last: Drawing | undefined;
  /** By slot: the place whose row was shown there, or is only hidden, and the row. */
  private slots = new Map<number, { readonly place: number; readonly row: Row; hidden: boolean }>();
  private spent = 0;
  /** The frame in which so many rows were filled. */
  private time: CSSNumberish | null = null;
  private held = false;
  private frame = 0;

  constructor(private readonly drawAgain: () => void) {}

  /** What each place shows, from `first` up to, not including, `end`. */
  choose(first: number, end: number, offset: number, drawing: Drawing): FilledRows {
    const { source, columns, slots, moving } = drawing;
    const last = this.last;
    // What a row held is drawn by the same columns only: others may want what it has not.
    const drawnAlike = last?.source === source && last.columns === columns;
    const most = Math.ceil(cellsInFrame / Math.max(1, columns.length));
    let room = moving ? most - (this.time === frameTime() ? this.spent : 0) : Infinity;
    const chosen = new Map<number, FilledRow>();
    let held = false;
    for (let place = first; place < end; place += 1) {
      const there = rowAt(source, offset + place);
      const before = last?.slots === slots ? this.slots.get(place % slots) : undefined;
      const stood = before?.place === place && !before.hidden;
      const row = stood || room > 0 ? there : undefined;
      if (row !== undefined && !stood) room -= 1;
      if (row === undefined && there !== undefined) held = true;
      const hides = row === undefined && moving && drawnAlike;
      chosen.set(place, { row, hidden: hides ? before?.row : undefined });
    }
    return { chosen, held };
  }

  /** Remembers what was drawn. What had to wait comes with the next frame. */
  keep({ chosen, held }: FilledRows, drawing: Drawing): void {
    const slots: typeof this.slots = new Map();
    let fresh = 0;
    this.held = held;
    for (const [place, { row, hidden }] of chosen) {
      const slot = place % drawing.slots;
      const before = this.slots.get(slot);
      if (row !== undefined) {
        if (before?.place !== place || before.hidden) fresh += 1;
        slots.set(slot, { place, row, hidden: false });
      } else if (hidden !== undefined) slots.set(slot, { place, row: hidden, hidden: true });
    }
    this.slots = slots;
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
    // What is asked for before a frame is drawn comes in the same one.
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
