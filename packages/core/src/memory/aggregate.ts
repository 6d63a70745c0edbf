import type { CheckedAggregate } from '../check/index.ts';
import { calculate, decimal, divideExactly, trimmed, type Decimal } from '../decimal/index.ts';
import { isNumeric } from '../schema/index.ts';
import { decimalOf, whole, type Evaluator, type MemoryRow } from './evaluate.ts';
import { compareComputed, floatOf, type Computed } from './value.ts';
import type { TextOrder } from './text-order.ts';

const half = decimal('0.5');

/** An aggregate of some rows; `result` are those of the whole result, of which shares are taken. */
export function aggregateOf(
  aggregate: CheckedAggregate,
  given: readonly MemoryRow[],
  result: readonly MemoryRow[],
  evaluator: Evaluator,
  textOrder: TextOrder,
): Computed | null {
  const { kind, argument, type, fraction = '0', only } = aggregate;
  const meant = (some: readonly MemoryRow[]): readonly MemoryRow[] =>
    only === undefined ? some : some.filter((row) => evaluator.condition(only, row) === true);
  const rows = meant(given);
  const all = kind === 'share' ? meant(result) : result;
  if (argument === undefined) {
    return kind === 'share' ? quotient(rows.length, all.length) : whole(rows.length);
  }
  const valuesOf = (some: readonly MemoryRow[]): readonly Computed[] =>
    some.flatMap((row) => evaluator.value(argument, row) ?? []);
  const values = valuesOf(rows);
  const compare = (one: Computed, other: Computed): number =>
    compareComputed(one, other, textOrder);
  const sorted = (): readonly Computed[] => [...values].sort(compare);
  switch (kind) {
    case 'count':
      return whole(values.length);
    case 'distinct': {
      const order = sorted();
      const first = (one: Computed, index: number): boolean => {
        const before = order[index - 1];
        return before === undefined || compare(before, one) !== 0;
      };
      return whole(order.filter(first).length);
    }
    case 'sum':
      return sumOf(values);
    case 'share': {
      const [part, of] = [sumOf(values), sumOf(valuesOf(all))];
      return part === null || of === null ? null : quotient(floatOf(part), floatOf(of));
    }
    case 'avg': {
      const sum = sumOf(values);
      if (sum === null) return null;
      if (sum.kind === 'float') return { ...sum, value: sum.value / values.length };
      const value = divideExactly(decimalOf(sum), decimal(String(values.length)));
      return { kind: 'decimal', value };
    }
    case 'min':
      return sorted()[0] ?? null;
    case 'max':
      return sorted().at(-1) ?? null;
    case 'percentile':
      return discrete(sorted(), fraction);
    case 'median': {
      const order = sorted();
      const low = discrete(order, '0.5');
      const high = discrete([...order].reverse(), '0.5');
      if (low === null || high === null || !isNumeric(type)) return low;
      if (low.kind === 'float') {
        return { kind: 'float', value: low.value / 2 + floatOf(high) / 2, bits: 64 };
      }
      const both = calculate('+', decimalOf(low), decimalOf(high));
      const value: Decimal | null = both && calculate('*', both, half);
      return value && { kind: 'decimal', value: trimmed(value) };
    }
    default:
      throw new Error(`unknown aggregate ${JSON.stringify(kind satisfies never)}`);
  }
}

function sumOf(values: readonly Computed[]): Computed | null {
  const [first] = values;
  if (first === undefined) return null;
  if (first.kind === 'float') {
    return { kind: 'float', value: values.reduce((sum, one) => sum + floatOf(one), 0), bits: 64 };
  }
  const value = values.map(decimalOf).reduce((sum, one) => calculate('+', sum, one) ?? sum);
  return { kind: 'decimal', value };
}

/** The first value at or below which such a part of the values lies. */
function discrete(sorted: readonly Computed[], fraction: string): Computed | null {
  // In whole numbers: 0.07 of 100 is 7, and not a little more.
  const [whole = '', part = ''] = fraction.split('.');
  const unit = 10n ** BigInt(part.length);
  const place = (BigInt(whole + part) * BigInt(sorted.length) + unit - 1n) / unit;
  return sorted[Math.max(1, Number(place)) - 1] ?? null;
}

function quotient(part: number, of: number): Computed | null {
  return of === 0 ? null : { kind: 'float', value: part / of, bits: 64 };
}
