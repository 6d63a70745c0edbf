/** Round values of a scale, coarse before fine, and how one is written. */
export interface RoundLevel {
  /** The greatest round value that is not after this one. */
  readonly floor: (value: number) => number;
  /** The round value after a round one. */
  readonly next: (round: number) => number;
  readonly text: (value: number) => string;
  /** Whether the text names what begins with the value, such as a year, and not the value. */
  readonly span: boolean;
  /** About how far apart they are. */
  readonly size: number;
}

const second = 1000;
const minute = 60 * second;
const hour = 60 * minute;
const day = 24 * hour;
const year = 365.25 * day;

/** Years, months, days and times of day, in ms since 1970 (UTC). */
export function roundTimes(locale: string): readonly RoundLevel[] {
  const format = (options: Intl.DateTimeFormatOptions): ((at: number) => string) => {
    const written = new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' });
    return (at) => written.format(at);
  };
  const years = (count: number): RoundLevel => ({
    floor: (at) => Date.UTC(Math.floor(new Date(at).getUTCFullYear() / count) * count, 0),
    next: (at) => Date.UTC(new Date(at).getUTCFullYear() + count, 0),
    text: format({ year: 'numeric' }),
    span: true,
    size: count * year,
  });
  const months = (count: number): RoundLevel => ({
    floor: (at) => {
      const date = new Date(at);
      return Date.UTC(date.getUTCFullYear(), Math.floor(date.getUTCMonth() / count) * count);
    },
    next: (at) => Date.UTC(new Date(at).getUTCFullYear(), new Date(at).getUTCMonth() + count),
    text: format({ month: 'short', year: 'numeric' }),
    span: true,
    size: (count * year) / 12,
  });
  const even = (size: number, options: Intl.DateTimeFormatOptions): RoundLevel => ({
    floor: (at) => Math.floor(at / size) * size,
    next: (at) => at + size,
    text: format(options),
    span: options.hour === undefined,
    size,
  });
  const date = { day: 'numeric', month: 'short' } as const;
  const clock = { ...date, hour: '2-digit', minute: '2-digit', hourCycle: 'h23' } as const;
  return [
    ...[100, 50, 10, 5, 1].map(years),
    ...[6, 3, 1].map(months),
    ...[7, 1].map((count) => even(count * day, date)),
    ...[12, 6, 3, 1].map((count) => even(count * hour, clock)),
    ...[30, 10, 5, 1].map((count) => even(count * minute, clock)),
  ];
}

/** 1, 2 and 5 times the powers of ten, for values up to `greatest` in size. */
export function roundNumbers(greatest: number, locale: string): readonly RoundLevel[] {
  const top = Math.ceil(Math.log10(Math.max(greatest, 1e-9)));
  const levels: RoundLevel[] = [];
  for (let power = top; power > top - 6; power -= 1) {
    for (const digit of [5, 2, 1]) {
      const size = digit * 10 ** power;
      const written = new Intl.NumberFormat(locale, { maximumFractionDigits: Math.max(0, -power) });
      const whole = (value: number): number => Number(value.toPrecision(12));
      levels.push({
        floor: (value) => whole(Math.floor(whole(value / size)) * size),
        next: (round) => whole(round + size),
        text: (round) => written.format(round),
        span: false,
        size,
      });
    }
  }
  return levels;
}
