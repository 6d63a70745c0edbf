import type { Value } from '@ephoros/client';
import { isNumeric, valueLabelOf, type ResultColumn } from '@ephoros/core/schema';
import { dateFormat, numberFormat } from './formatters.ts';
import { english } from '../messages/english.ts';
import type { Messages } from '../messages/messages.ts';

/** For whom values are written. */
export interface Reader {
  /** A BCP 47 language tag, such as "en-GB". */
  readonly locale: string;
  /** An IANA time zone, such as "Europe/Paris". */
  readonly timeZone: string;
  /** What values are called that are no text; in English by default. */
  readonly messages?: Pick<Messages, 'missing' | 'yes' | 'no' | 'emptyText' | 'emptyList'>;
}

/** The same with all that a table says to them. */
export interface FullReader extends Reader {
  readonly messages: Messages;
}

/** A value as people read it. */
export interface FormattedValue {
  readonly text: string;
  /** How it is set: numbers right-aligned, `null` and `yes`/`no` unlike any text. */
  readonly kind: 'text' | 'number' | 'null' | 'yes' | 'no' | 'empty' | 'picture' | 'link' | 'badge';
  /** The exact value, where the text says less. */
  readonly exact?: string;
}

/**
 * A value of a column, written for a reader. Nothing is rounded that `exact` does not hold. What
 * cannot be written as its format says stands there as it came.
 */
export function formatValue(value: Value, column: ResultColumn, reader: Reader): FormattedValue {
  try {
    return formatted(value, column, reader);
  } catch {
    return { text: typeof value === 'string' ? value : JSON.stringify(value), kind: 'text' };
  }
}

function formatted(value: Value, column: ResultColumn, reader: Reader): FormattedValue {
  const { messages = english } = reader;
  if (value === null) return { text: messages.missing, kind: 'null' };
  const named = asNamed(value, column);
  if (named !== undefined) return named;
  if (typeof value === 'boolean') {
    return value ? { text: messages.yes, kind: 'yes' } : { text: messages.no, kind: 'no' };
  }
  if (Array.isArray(value)) return asList(value as readonly Value[], messages.emptyList);
  if (typeof value === 'object') return { text: JSON.stringify(value), kind: 'text' };
  const raw = String(value);
  if (raw === '') return { text: messages.emptyText, kind: 'empty' };
  const { type, format } = column;
  switch (format?.kind) {
    case 'picture':
    case 'link':
    case 'badge':
      return { text: raw, kind: format.kind };
    case 'date':
    case 'datetime':
      return asDate(raw, format.kind === 'datetime', reader);
    case 'duration':
      return asLength(raw, format.unit, reader);
    case 'number':
    case 'money':
    case 'percent':
    case 'identifier':
    case undefined:
      break;
    default:
      throw new Error(`unknown format ${JSON.stringify(format satisfies never)}`);
  }
  if (isNumeric(type)) return asNumber(raw, column, reader);
  if (type.kind === 'timestamp') return asDate(raw, true, reader);
  if (type.kind === 'date') return asDate(raw, false, reader);
  if (type.kind === 'interval') return asDuration(raw, reader);
  return { text: raw, kind: 'text' };
}

/** The text alone of a value as people read it, such as in a sentence. */
export function formatText(value: Value, column: ResultColumn, reader: Reader): string {
  return formatValue(value, column, reader).text;
}

/** A value that is called something; undefined where it has no name but its own. */
function asNamed(value: Value, column: ResultColumn): FormattedValue | undefined {
  if (typeof value === 'object') return undefined;
  const exact = String(value);
  const text = valueLabelOf(exact, column);
  const kind = column.format?.kind === 'badge' ? 'badge' : 'text';
  return text === undefined ? undefined : { text, kind, exact };
}

/** The members of a list by commas; the list itself, exactly, is its JSON. */
function asList(members: readonly Value[], empty: string): FormattedValue {
  if (members.length === 0) return { text: empty, kind: 'empty' };
  const text = members
    .map((one) => (typeof one === 'object' ? JSON.stringify(one) : String(one)))
    .join(', ');
  return { text, kind: 'text', exact: JSON.stringify(members) };
}

/** Digits after the point that every browser's formatter takes (ECMA-402 before 2023: 20). */
const mostDecimals = 20;

function asNumber(raw: string, { format }: ResultColumn, { locale }: Reader): FormattedValue {
  // NaN and infinities have no other spelling.
  if (!/\d/.test(raw)) return { text: raw, kind: 'number' };
  const decimals = format && 'decimals' in format ? format.decimals : undefined;
  const own = /\.(\d+)/.exec(raw)?.[1]?.length ?? 0;
  // No formatter writes more of them.
  if ((decimals ?? own) > mostDecimals) return { text: raw, kind: 'number' };
  const options = {
    minimumFractionDigits: decimals ?? own,
    maximumFractionDigits: decimals ?? own,
    style: format?.kind === 'percent' ? 'percent' : 'decimal',
    // What names something is no quantity.
    useGrouping: format?.kind !== 'identifier',
  };
  // Since ES2023 a decimal text is formatted digit by digit, without passing through a float.
  const digits = numberFormat(locale, options).format(raw as Intl.StringNumericLiteral);
  const text =
    format?.kind === 'money'
      ? `${format.currency} ${digits}`
      : format?.kind === 'number' && format.unit !== undefined
        ? `${digits} ${format.unit}`
        : digits;
  return decimals !== undefined && decimals < own
    ? { text, kind: 'number', exact: raw }
    : { text, kind: 'number' };
}

function asDate(raw: string, withTime: boolean, { locale, timeZone }: Reader): FormattedValue {
  const [day = ''] = raw.split('T');
  const zoned = /(Z|[+-]\d\d:\d\d)$/.test(raw);
  // A date and a timestamp without a zone are the same everywhere.
  const moment = new Date(zoned ? raw : `${day}T${raw.split('T')[1] ?? '00:00:00'}Z`);
  if (Number.isNaN(moment.getTime())) return { text: raw, kind: 'text' };
  const options = {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    ...(withTime ? { hour: '2-digit', minute: '2-digit' } : {}),
    timeZone: zoned ? timeZone : 'UTC',
  };
  return { text: dateFormat(locale, options).format(moment), kind: 'text', exact: raw };
}

const secondsOf = { seconds: 1, minutes: 60, hours: 3_600, days: 86_400 } as const;

/** 111 minutes → "1h 51m"; what is no number stays as it is. */
function asLength(raw: string, unit: keyof typeof secondsOf, { locale }: Reader): FormattedValue {
  const all = Math.round(Number(raw) * secondsOf[unit] * 1000) / 1000;
  if (!Number.isFinite(all)) return { text: raw, kind: 'number' };
  const sign = all < 0 ? '-' : '';
  let left = Math.abs(all);
  const parts = (['day', 'hour', 'minute', 'second'] as const).flatMap((name) => {
    const size = secondsOf[`${name}s`];
    const amount = name === 'second' ? Math.round(left * 1000) / 1000 : Math.floor(left / size);
    left -= amount * size;
    if (amount === 0) return [];
    const options = { style: 'unit', unit: name, unitDisplay: 'narrow' };
    return [numberFormat(locale, options).format(amount)];
  });
  const none = numberFormat(locale, {
    style: 'unit',
    unit: unit.slice(0, -1),
    unitDisplay: 'narrow',
  }).format(0);
  return { text: sign + (parts.join(' ') || none), kind: 'number', exact: `${raw} ${unit}` };
}

/** "PT1H51M15S" → "1h 51m 15s". */
function asDuration(raw: string, { locale }: Reader): FormattedValue {
  const match =
    /^P(?:(-?\d+)Y)?(?:(-?\d+)M)?(?:(-?\d+)D)?(?:T(?:(-?\d+)H)?(?:(-?\d+)M)?(?:(-?[\d.]+)S)?)?$/.exec(
      raw,
    );
  if (match === null) return { text: raw, kind: 'text' };
  const units = ['year', 'month', 'day', 'hour', 'minute', 'second'];
  const parts = match.slice(1).flatMap((amount: string | undefined, index) => {
    if (amount === undefined) return [];
    const options = { style: 'unit', unit: units[index], unitDisplay: 'narrow' };
    return [numberFormat(locale, options).format(Number(amount))];
  });
  return { text: parts.join(' ') || '0', kind: 'number', exact: raw };
}

/** A value as plain text: a text itself, anything else as JSON. */
export function plainText(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}
