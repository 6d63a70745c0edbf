import type { Value } from '@ephoros/client';
import type { CheckedLevel } from '@ephoros/core/check';
import { formatValue, type FormattedValue } from '@ephoros/react';
import { reader } from '../service.ts';

/** The value of a group as people read it: a month by its name, a bin by both its ends. */
export function groupValue(value: Value, level: CheckedLevel): FormattedValue {
  const { scalar } = level;
  const plain = formatValue(value, level, reader);
  if (value === null || scalar.kind !== 'function') return plain;
  const [, width] = scalar.args;
  const by = width?.kind === 'value' ? width.value : '';
  if (scalar.name === 'bin' && typeof value === 'string') {
    const text = level.type.kind === 'date' ? span(value, by) : bounds(value, by, level);
    return text === undefined ? plain : { text, kind: plain.kind, exact: value };
  }
  if (typeof value !== 'number') return plain;
  const named = names[scalar.name];
  return named === undefined ? plain : { text: named(value), kind: 'text', exact: String(value) };
}

const written = (options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat =>
  new Intl.DateTimeFormat(reader.locale, { ...options, timeZone: 'UTC' });
const monthName = written({ month: 'long' });
const dayName = written({ weekday: 'long' });
const month = written({ month: 'long', year: 'numeric' });
const day = written({ day: 'numeric', month: 'short', year: 'numeric' });

/** Parts of a date that have names. 1 January 2024 was a Monday. */
const names: Readonly<Record<string, (value: number) => string>> = {
  month: (value) => monthName.format(Date.UTC(2024, value - 1)),
  weekday: (value) => dayName.format(Date.UTC(2024, 0, value)),
  quarter: (value) => `quarter ${value}`,
  week: (value) => `week ${value}`,
  hour: (value) => `${String(value).padStart(2, '0')}:00`,
};

/** What begins at a date: "2024", "March 2024", … */
function span(value: string, width: string): string | undefined {
  const at = new Date(`${value}T00:00:00Z`);
  if (Number.isNaN(at.getTime())) return undefined;
  switch (width) {
    case 'P1Y':
      return String(at.getUTCFullYear());
    case 'P3M':
      return `quarter ${Math.floor(at.getUTCMonth() / 3) + 1}, ${at.getUTCFullYear()}`;
    case 'P1M':
      return month.format(at);
    case 'P1W':
      return `week of ${day.format(at)}`;
    default:
      return day.format(at);
  }
}

/** From and up to, not including, of a bin of numbers. */
function bounds(value: string, width: string, level: CheckedLevel): string | undefined {
  if (level.type.kind !== 'numeric' || Number.isNaN(Number(value))) return undefined;
  const digits = /\.(\d+)/.exec(width)?.[1]?.length ?? 0;
  const end = (Number(value) + Number(width)).toFixed(digits);
  const [from, to] = [value, end].map((one) => formatValue(one, level, reader).text);
  return `${from ?? ''} – ${to ?? ''}`;
}
