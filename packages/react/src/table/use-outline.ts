import type { OutlineLine, OutlineSource, RowSource } from '@ephoros/client';
import { useCallback, useLayoutEffect, useRef } from 'react';
import { isOutline } from './row-at.ts';
import { stuckLines, type StuckLine } from './stuck-lines.ts';

interface Pin {
  readonly path: readonly number[];
  /** Px from the top of the view. */
  readonly top: number;
}

interface PreviousPin extends Pin {
  readonly source: OutlineSource;
  readonly generation: number;
}

interface Layout {
  /** Px of rows above the view. */
  readonly above: number;
  readonly rowHeight: number;
  readonly rowCount: number;
  readonly moveTo: (above: number) => void;
}

/** What a table does with an outline; nothing where its source has none. */
interface OutlineTable {
  readonly outline: OutlineSource | undefined;
  /** The lines that stay in view while their rows scroll by. */
  readonly stuck: readonly StuckLine[];
  /** Opens or closes a group; `top` is where its line stands in the view when it is stuck. */
  readonly toggle: (position: number, top?: number) => void;
}

/**
 * Opens and closes groups, and keeps the eye's place: when lines above the view come or go, the
 * first line in view, or the one whose group was opened or closed, stays where it is.
 */
export function useOutline(
  source: RowSource | OutlineSource,
  { above, rowHeight, rowCount, moveTo }: Layout,
): OutlineTable {
  const outline = isOutline(source) ? source : undefined;
  const pin = useRef<Pin>(undefined);
  const previous = useRef<PreviousPin>(undefined);
  useLayoutEffect(() => {
    if (outline === undefined || rowCount === 0) return;
    const generation = outline.generation();
    const last = previous.current;
    let now = above;
    if (last?.source === outline && last.generation !== generation) {
      const { path, top } = pin.current ?? last;
      pin.current = undefined;
      const wanted = Math.max(0, outline.positionOf(path) * rowHeight - top);
      if (Math.abs(wanted - above) > 0.5) {
        moveTo(wanted);
        now = wanted;
      }
    }
    const first = Math.min(rowCount - 1, Math.floor(now / rowHeight));
    const path = outline.pathAt(first);
    previous.current = { source: outline, generation, path, top: first * rowHeight - now };
  });
  const toggle = useCallback(
    (position: number, top?: number) => {
      if (outline === undefined) return;
      // A line that is stuck while its rows scroll by stays where it is, too.
      pin.current = top === undefined ? undefined : { path: outline.pathAt(position), top };
      outline.toggle(position);
    },
    [outline],
  );
  const stuck = outline === undefined ? [] : stuckLines(outline, above, rowHeight, rowCount);
  return { outline, stuck, toggle };
}

/** What a key does to a line of an outline; undefined where it moves as in any table. */
export function outlineKey(
  key: string,
  line: OutlineLine,
  inOutline: boolean,
): 'toggle' | 'out' | undefined {
  const group = line.kind === 'group' ? line : undefined;
  if ((key === 'Enter' || key === ' ') && group !== undefined) return 'toggle';
  if (!inOutline) return undefined;
  if (key === 'ArrowRight' && group?.open === false) return 'toggle';
  if (key !== 'ArrowLeft') return undefined;
  if (group?.open === true) return 'toggle';
  return line.depth > 0 ? 'out' : undefined;
}
