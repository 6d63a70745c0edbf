import {
  calculate,
  decimal,
  divideExactly,
  printDecimal,
  trimmed,
  type Decimal,
} from './decimal.ts';

/**
 * Where so many bins of equal width begin, and where the last one ends: `bins + 1` values from
 * the least to the greatest, as PostgreSQL writes numbers.
 */
export function edgesBetween(least: string, greatest: string, bins: number): readonly string[] {
  const [low, high] = [decimal(least), decimal(greatest)];
  const width = difference(high, low);
  return Array.from({ length: bins + 1 }, (_, index) => {
    // The ends themselves, digit by digit.
    if (index === 0) return least;
    if (index === bins) return greatest;
    const part = calculate('*', width, decimal(String(index))) ?? width;
    const at = calculate('+', low, divideExactly(part, decimal(String(bins)))) ?? low;
    return printDecimal(trimmed(at));
  });
}

/** The bin, from 0, that a value between the two lies in; the greatest lies in the last. */
export function binOf(value: Decimal, least: Decimal, greatest: Decimal, bins: number): number {
  const part = calculate('*', difference(value, least), decimal(String(bins))) ?? value;
  const bin = calculate('div', part, difference(greatest, least));
  return Math.min(bins - 1, bin === null ? 0 : Number(printDecimal(bin)));
}

function difference(one: Decimal, other: Decimal): Decimal {
  return calculate('-', one, other) ?? one;
}
