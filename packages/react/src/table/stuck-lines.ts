import type { OutlineSource } from '@ephoros/client';
import type { Group } from './group-row.tsx';

/** The line of a group that stays in view. */
export interface StuckLine {
  readonly position: number;
  readonly line: Group;
  /** Px from the top of the view. */
  readonly top: number;
}

/**
 * The lines of the groups that the first rows in view lie in: they stay in view, one below the
 * other, and leave with the last line of their group. `above` is how many px of rows lie above.
 */
export function stuckLines(
  source: OutlineSource,
  above: number,
  rowHeight: number,
  rowCount: number,
): readonly StuckLine[] {
  const lines: StuckLine[] = [];
  for (;;) {
    const depth = lines.length;
    // The first line below those that are stuck already.
    const under = Math.floor((above + depth * rowHeight) / rowHeight);
    if (under >= rowCount) return lines;
    const path = source.pathAt(under).slice(0, depth + 1);
    const position = source.positionOf(path);
    const line = source.row(position);
    const natural = position * rowHeight - above;
    const place = depth * rowHeight;
    if (line?.kind !== 'group' || !line.open || path.length <= depth || natural >= place) {
      return lines;
    }
    const end = source.endOf(path) * rowHeight - above;
    lines.push({ position, line, top: Math.min(place, end - rowHeight) });
  }
}
