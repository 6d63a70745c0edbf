import type { ColumnType } from '../schema/index.ts';

/** Names of the IANA time zone database; offsets and abbreviations mean too many things. */
const notation = /^(?:UTC|[A-Za-z_]+(?:\/[A-Za-z0-9_+-]+)+)$/;

export function isTimeZone(name: string): boolean {
  if (!notation.test(name)) return false;
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** Whether values are moments, which are at another hour in another place. */
export function isZoned(type: ColumnType): boolean {
  return type.kind === 'timestamp' && type.zone;
}
