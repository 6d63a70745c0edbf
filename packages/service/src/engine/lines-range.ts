import { binOf, compareDecimals, decimal, type Decimal } from '@ephoros/core/decimal';
import type { ColumnType } from '@ephoros/core/schema';
import type { Answer } from '../run/index.ts';

type Row = Answer['rows'][number];

/** The least and the greatest of some values as PostgreSQL writes them, and how many lie in bins between. */
export interface LinesRange {
  readonly least: string;
  readonly greatest: string;
  readonly countIn: (bins: number) => ReadonlyMap<number, number>;
}

/** Whether the range of a type's values can be read off its lines, exactly. */
export function isReadOff({ kind, domain }: ColumnType & { readonly domain?: boolean }): boolean {
  return domain !== true && (kind === 'integer' || kind === 'numeric');
}

/**
 * The range of the values of all lines of a column: what they were grouped for says it already. Undefined where
 * no value has a place on the line of numbers.
 */
export function rangeOfLines(lines: readonly Row[]): LinesRange | undefined {
  const values = lines.flatMap(([text = null, count = null]) => {
    const value = text === null ? undefined : decimal(text);
    return value?.kind !== 'finite' ? [] : [{ text: text ?? '', value, count: Number(count) }];
  });
  const [first, ...others] = values;
  if (first === undefined) return undefined;
  let [least, greatest] = [first, first];
  for (const one of others) {
    if (compareDecimals(one.value, least.value) < 0) least = one;
    if (compareDecimals(one.value, greatest.value) > 0) greatest = one;
  }
  const countIn = (bins: number): ReadonlyMap<number, number> => {
    const counts = new Map<number, number>();
    for (const { value, count } of values) {
      const bin = placeOf(value, least.value, greatest.value, bins);
      counts.set(bin, (counts.get(bin) ?? 0) + count);
    }
    return counts;
  };
  return { least: least.text, greatest: greatest.text, countIn };
}

function placeOf(value: Decimal, least: Decimal, greatest: Decimal, bins: number): number {
  return compareDecimals(greatest, least) === 0 ? 0 : binOf(value, least, greatest, bins);
}
