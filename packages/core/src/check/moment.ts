const duration =
  /^P(?=.)(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)W)?(?:(\d+)D)?(?:T(?=.)(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$/;

// The calendar of `Date` ends 8.64e15 ms from 1970; PostgreSQL's begins later than that before.
const earliest = Date.UTC(-4000, 0);

/**
 * The moment an ISO 8601 duration before another, in UTC; a month or year back keeps the day of
 * the month, or takes the last one that there is. Undefined for what is no duration, or too long.
 */
export function before(moment: Date, text: string): Date | undefined {
  const match = duration.exec(text);
  if (match === null) return undefined;
  const [years = 0, months = 0, weeks = 0, days = 0, hours = 0, minutes = 0, seconds = 0] = match
    .slice(1)
    .map((amount: string | undefined) => Number(amount ?? 0));
  const back = new Date(moment);
  const day = back.getUTCDate();
  back.setUTCDate(1);
  back.setUTCMonth(back.getUTCMonth() - (years * 12 + months));
  const last = new Date(Date.UTC(back.getUTCFullYear(), back.getUTCMonth() + 1, 0)).getUTCDate();
  back.setUTCDate(Math.min(day, last));
  const milliseconds = ((((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds) * 1000;
  const found = new Date(back.getTime() - milliseconds);
  return found.getTime() > earliest ? found : undefined;
}
