import { microseconds, printMoment } from './moment.ts';

const day = 86_400_000_000n;

/**
 * Where so many bins of equal width begin, and where the last one ends: `bins + 1` dates, or
 * moments without a zone, from the least to the greatest, in PostgreSQL's notation or RFC 3339.
 * Undefined stands for those that neither filters nor RFC 3339 can say.
 */
export function momentsBetween(
  least: string,
  greatest: string,
  bins: number,
  byDay: boolean,
): readonly (string | undefined)[] {
  const unit = byDay ? day : 1n;
  const [low, high] = [microseconds(least) / unit, microseconds(greatest) / unit];
  const all = BigInt(bins);
  return Array.from({ length: bins + 1 }, (_, index) => {
    // A bin holds what is not before its edge: to the day, or to the microsecond.
    const at = (low + ((high - low) * BigInt(index) + all - 1n) / all) * unit;
    const text = printMoment(at);
    return byDay ? text?.slice(0, 10) : text;
  });
}
