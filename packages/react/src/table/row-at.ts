import type { GroupLine, OutlineSource, Row, RowSource } from '@ephoros/client';

/** Whether a source gives the lines of groups. */
export function isOutline(source: RowSource | OutlineSource): source is OutlineSource {
  return 'toggle' in source;
}

/** The row at a position; undefined where there is none yet, or the line of a group. */
export function rowAt(source: RowSource | OutlineSource, position: number): Row | undefined {
  if (!isOutline(source)) return source.row(position);
  const line = source.row(position);
  return line?.kind === 'row' ? line.row : undefined;
}

/** The groups that a line lies in, the outermost first; the line of a group is the last of them. */
export function groupsAt(source: OutlineSource, position: number): readonly GroupLine[] {
  const path = source.pathAt(position);
  return path.flatMap((_place, depth) => {
    const line = source.row(source.positionOf(path.slice(0, depth + 1)));
    return line?.kind === 'group' ? [line.line] : [];
  });
}
