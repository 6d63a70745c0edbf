import { askWhole } from '@ephoros/client';
import { mostSelected } from '@ephoros/core/expression';
import type { Drawn } from '../records/use-records.ts';
import { isOutline, rowAt } from '../table/row-at.ts';

/** What keeps a range from being selected. */
export type RangeRefusal = 'too-long' | Error | undefined;

/**
 * Selects the rows from one position to another (each of them too), in the order in force; those
 * that were never loaded are asked for, by their keys alone.
 */
export async function selectRange(
  { source, selection, ask, query, table }: Drawn,
  from: number,
  to: number,
): Promise<RangeRefusal> {
  const [first, last] = from < to ? [from, to] : [to, from];
  const positions = Array.from({ length: last - first + 1 }, (_, index) => first + index);
  const loaded = positions.map((position) => rowAt(source, position));
  const there = loaded.filter((row) => row !== undefined);
  const whole = there.length === loaded.length || isOutline(source) || ask?.rows === undefined;
  if (positions.length > mostSelected && !whole) return 'too-long';
  if (whole) {
    selection.add(there);
    return undefined;
  }
  try {
    const columns = table.key.map((name) => ({ name, span: { start: 0, end: 0 } }));
    // In one question, unless the table answers fewer rows at once.
    const { rows } = await askWhole(ask.rows, {
      ...query,
      columns,
      place: { kind: 'offset', offset: first },
      limit: positions.length,
      total: 'none',
    });
    selection.add(rows);
    return undefined;
  } catch (thrown) {
    return thrown instanceof Error ? thrown : new Error(String(thrown));
  }
}
