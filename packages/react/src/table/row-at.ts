import type { OutlineSource, Row, RowSource } from '@ephoros/client';

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
