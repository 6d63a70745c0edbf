import type { FunctionName } from '../check/index.ts';
import { zoneOffset } from '../moment/index.ts';

const day = 86_400_000;

/** A part of a moment given in microseconds since 1970, in UTC or a named time zone. */
export function partOf(name: FunctionName, moment: bigint, zone: string | undefined): number {
  const milliseconds = wallTime(moment, zone);
  const date = new Date(milliseconds);
  switch (name) {
    case 'year':
      return date.getUTCFullYear();
    case 'quarter':
      return Math.floor(date.getUTCMonth() / 3) + 1;
    case 'month':
      return date.getUTCMonth() + 1;
    case 'day':
      return date.getUTCDate();
    case 'weekday':
      return weekdayOf(date);
    case 'hour':
      return date.getUTCHours();
    default: {
      // The ISO week is the one of its Thursday.
      const thursday = new Date(milliseconds + (4 - weekdayOf(date)) * day);
      const first = Date.UTC(thursday.getUTCFullYear(), 0, 1);
      return Math.floor((thursday.getTime() - first) / day / 7) + 1;
    }
  }
}

/**
 * The year, quarter, month, week, day or hour (as an ISO 8601 duration) that a moment lies in, by
 * its beginning: "2024-02-01", or "2024-02-29T10:00:00".
 */
export function beginningOf(
  moment: bigint,
  width: string,
  zone: string | undefined,
  dayOnly: boolean,
  zoned: boolean,
): string {
  const date = new Date(wallTime(moment, zone));
  const [year, month] = [date.getUTCFullYear(), date.getUTCMonth()];
  const begin = new Date(0);
  const days: Readonly<Record<string, readonly [number, number]>> = {
    P1Y: [0, 1],
    P3M: [month - (month % 3), 1],
    P1M: [month, 1],
    P1W: [month, date.getUTCDate() - weekdayOf(date) + 1],
  };
  const [beginMonth, beginDay] = days[width] ?? [month, date.getUTCDate()];
  begin.setUTCFullYear(year, beginMonth, beginDay);
  if (!dayOnly) begin.setUTCHours(date.getUTCHours());
  const text = begin.toISOString();
  return dayOnly ? text.slice(0, 10) : `${text.slice(0, 19)}${zoned ? 'Z' : ''}`;
}

function weekdayOf(date: Date): number {
  return ((date.getUTCDay() + 6) % 7) + 1;
}

/** What the clocks of a zone show at a moment, as ms that are read as UTC. */
function wallTime(moment: bigint, zone: string | undefined): number {
  const milliseconds = Number(moment / 1000n) - (moment % 1000n < 0n ? 1 : 0);
  return zone === undefined ? milliseconds : milliseconds + zoneOffset(zone, milliseconds);
}
