const forever = 10n ** 30n;

/** Whether a moment is one of the infinite ones. */
export function isForever(moment: bigint): boolean {
  return moment >= forever || moment <= -forever;
}

/** Microseconds from 1970 of "2024-02-29", "2024-02-29T10:15:00.5Z" or "2024-02-29 10:15:00+00". */
export function microseconds(text: string): bigint {
  if (text === 'infinity') return forever;
  if (text === '-infinity') return -forever;
  const [, year = '', rest = '', clock = '00:00:00', fraction = '', zone = '', bc] =
    /^(\d{4,})-(\d\d-\d\d)(?:[T ](\d\d:\d\d:\d\d)(?:\.(\d+))?)?(Z|[+-]\d\d(?::\d\d)?)?( BC)?$/.exec(
      text,
    ) ?? [];
  const [month = 1, day = 1] = rest.split('-').map(Number);
  const [hours = 0, minutes = 0, seconds = 0] = clock.split(':').map(Number);
  const date = new Date(0);
  date.setUTCFullYear(bc === undefined ? Number(year) : 1 - Number(year), month - 1, day);
  date.setUTCHours(hours, minutes, seconds);
  return (
    BigInt(date.getTime()) * 1000n +
    BigInt(fraction.padEnd(6, '0').slice(0, 6) || '0') -
    offsetOf(zone)
  );
}

/** Microseconds that the clocks of a zone, such as "+02:00", are ahead of UTC. */
export function offsetOf(zone: string): bigint {
  const [, sign = '+', hours = '0', minutes = '0'] = /^([+-])(\d\d):?(\d\d)?/.exec(zone) ?? [];
  const offset = BigInt(Number(hours) * 60 + Number(minutes)) * 60_000_000n;
  return sign === '-' ? -offset : offset;
}

/**
 * A moment as answers have it, without a zone: "2024-02-29T10:15:00.5". Undefined for years that
 * RFC 3339 cannot say.
 */
export function printMoment(moment: bigint): string | undefined {
  const rest = ((moment % 1_000_000n) + 1_000_000n) % 1_000_000n;
  const date = new Date(Number((moment - rest) / 1000n));
  const year = date.getUTCFullYear();
  if (Number.isNaN(year) || year < 1 || year > 9999) return undefined;
  const fraction = rest === 0n ? '' : `.${String(rest).padStart(6, '0').replace(/0+$/, '')}`;
  return date.toISOString().slice(0, 19) + fraction;
}
