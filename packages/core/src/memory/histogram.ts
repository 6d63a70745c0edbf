import type { CheckedGrouping } from '../check/index.ts';
import { binOf, compareDecimals, decimal, type Decimal } from '../decimal/index.ts';
import { isForever } from '../moment/index.ts';
import { decimalOf, Evaluator, type MemoryRow } from './evaluate.ts';
import type { MemoryOptions } from './rows.ts';
import { byCodePoint } from './text-order.ts';
import type { Computed } from './value.ts';

/** How many values lie in a bin of a histogram; bins count from 0. */
export interface MemoryBin {
  readonly bin: number;
  readonly count: number;
}

/** So many bins of equal width over the values that a grouping by one column is about. */
export function histogramOf(
  grouping: CheckedGrouping,
  bins: number,
  rows: readonly MemoryRow[],
  { textOrder = byCodePoint, rowsOf = () => [] }: MemoryOptions = {},
): readonly MemoryBin[] {
  const [level] = grouping.levels;
  if (level === undefined) throw new Error('a histogram is of one column');
  const evaluator = new Evaluator(textOrder, rowsOf);
  const values = evaluator
    .matching(grouping, rows)
    .flatMap((row) => measured(evaluator.value(level.scalar, row)) ?? []);
  const sorted = [...values].sort(compareDecimals);
  const [least] = sorted;
  const greatest = sorted.at(-1);
  if (least === undefined || greatest === undefined) return [];
  const counts = new Map<number, number>();
  for (const value of sorted) {
    const bin = compareDecimals(greatest, least) === 0 ? 0 : binOf(value, least, greatest, bins);
    counts.set(bin, (counts.get(bin) ?? 0) + 1);
  }
  return [...counts].map(([bin, count]) => ({ bin, count }));
}

/** The place of a value on the line of its numbers; undefined for what has none. */
function measured(value: Computed | null): Decimal | undefined {
  if (value === null) return undefined;
  if (value.kind === 'order') {
    return isForever(value.value) ? undefined : decimal(String(value.value));
  }
  const number = decimalOf(value);
  return number.kind === 'finite' ? number : undefined;
}
