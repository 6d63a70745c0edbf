const clocks = new Map<string, Intl.DateTimeFormat>();

const dayLength = 86_400_000;

/** How far the clocks of a zone are ahead of UTC at a moment; both in ms. */
export function zoneOffset(zone: string, milliseconds: number): number {
  const known = clocks.get(zone);
  const clock =
    known ??
    new Intl.DateTimeFormat('en-US', {
      timeZone: zone,
      era: 'short',
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
      hourCycle: 'h23',
    });
  if (known === undefined) clocks.set(zone, clock);
  const shown: Record<string, string> = {};
  for (const { type, value } of clock.formatToParts(milliseconds)) shown[type] = value;
  const [year, month, date, hour, minute, second] = [
    shown.year,
    shown.month,
    shown.day,
    shown.hour,
    shown.minute,
    shown.second,
  ].map(Number);
  const wall = new Date(0);
  wall.setUTCFullYear(shown.era === 'BC' ? 1 - (year ?? 0) : (year ?? 0), (month ?? 1) - 1, date);
  wall.setUTCHours(hour ?? 0, minute, second);
  // The clock shows whole seconds.
  return wall.getTime() - Math.floor(milliseconds / 1000) * 1000;
}

/**
 * The moment at which the clocks of a zone show "2020-07-01T10:00:00", in RFC 3339 and UTC. Where
 * they show it twice the first time; where they leave it out, the moment at which they do. Undefined
 * for what is no date and time.
 */
export function momentAt(wall: string, zone: string): string | undefined {
  const shown = Date.parse(`${wall}Z`);
  if (Number.isNaN(shown)) return undefined;
  const offsets = [-dayLength, dayLength].map((by) => zoneOffset(zone, shown + by));
  const found = offsets
    .map((offset) => shown - offset)
    .sort((one, other) => one - other)
    .find((moment) => moment + zoneOffset(zone, moment) >= shown);
  return found === undefined ? undefined : printed(found);
}

/** What the clocks of a zone show at a moment, as "2020-07-01T10:00:00"; undefined for no moment. */
export function wallAt(moment: string, zone: string): string | undefined {
  const at = Date.parse(moment);
  if (Number.isNaN(at)) return undefined;
  return printed(at + zoneOffset(zone, at)).slice(0, -1);
}

/** The day so many days after another: "2020-07-31" and 1 make "2020-08-01". */
export function dayAfter(day: string, days: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + days * dayLength).toISOString().slice(0, 10);
}

function printed(milliseconds: number): string {
  return new Date(milliseconds).toISOString().replace('.000Z', 'Z');
}
