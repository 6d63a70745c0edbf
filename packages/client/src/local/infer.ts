import type { ColumnType } from '@ephoros/core/schema';

const whole = /^[+-]?\d{1,30}$/;
const decimal = /^[+-]?\d{1,30}\.\d{1,30}$/;
const day = /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/;
const clock = /^(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d(?:\.\d{1,6})?$/;
const moment =
  /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])[T ]\d\d:\d\d(?::\d\d(?:\.\d{1,6})?)?(Z|[+-]\d\d:\d\d)?$/;

/** What a column's values are, as far as they say; text where they do not agree. */
export function typeOfValues(values: readonly unknown[]): ColumnType {
  const there = values.filter((value) => value !== null && value !== undefined);
  if (there.length === 0) return { kind: 'text' };
  const all = (test: (value: unknown) => boolean): boolean => there.every(test);
  if (all((value) => typeof value === 'boolean')) return { kind: 'boolean' };
  if (all((value) => typeof value === 'number')) {
    const short = all((value) => Number.isInteger(value) && Math.abs(value as number) < 2 ** 31);
    return short ? { kind: 'integer', bits: 32 } : { kind: 'float', bits: 64 };
  }
  if (all((value) => value instanceof Date)) return { kind: 'timestamp', zone: true };
  if (all((value) => typeof value === 'bigint')) return { kind: 'integer', bits: 64 };
  if (all((value) => typeof value === 'string')) return typeOfTexts(there.map(String));
  return all((value) => typeof value === 'object') ? { kind: 'json' } : { kind: 'text' };
}

function typeOfTexts(texts: readonly string[]): ColumnType {
  const all = (pattern: RegExp): boolean => texts.every((text) => pattern.test(text));
  // Names such as 007 are no numbers: their zeros would be lost.
  const coded = texts.some((text) => /^[+-]?0\d/.test(text));
  if (!coded && all(whole)) {
    return texts.every((text) => text.replace(/^[+-]/, '').length < 10)
      ? { kind: 'integer', bits: 32 }
      : { kind: 'integer', bits: 64 };
  }
  if (!coded && texts.every((text) => whole.test(text) || decimal.test(text))) {
    return { kind: 'numeric' };
  }
  if (texts.every((text) => text === 'true' || text === 'false')) return { kind: 'boolean' };
  if (all(day)) return { kind: 'date' };
  if (all(clock)) return { kind: 'time', zone: false };
  if (!all(moment)) return { kind: 'text' };
  const zoned = texts.filter((text) => moment.exec(text)?.[1] !== undefined).length;
  if (zoned !== 0 && zoned !== texts.length) return { kind: 'text' };
  return { kind: 'timestamp', zone: zoned > 0 };
}

/** A value in the encoding that answers have for its type; null where it is none of the type. */
export function encoded(value: unknown, type: ColumnType): unknown {
  if (value === null || value === undefined) return null;
  const text = textOf(value);
  switch (type.kind) {
    case 'integer':
      if (type.bits === 64) return text;
      return asNumber(text);
    case 'float':
      return asNumber(text);
    case 'numeric':
      return text.replace(/^\+/, '');
    case 'boolean':
      return text === 'true';
    case 'timestamp':
      return asMoment(text, type.zone);
    case 'date':
      return text.slice(0, 10);
    case 'json':
    case 'array':
      return value;
    default:
      return text;
  }
}

function textOf(value: unknown): string {
  if (value instanceof Date) return value.toISOString();
  if (typeof value === 'bigint') return value.toString();
  return typeof value === 'string' ? value : JSON.stringify(value);
}

function asNumber(text: string): unknown {
  const number = Number(text);
  return Number.isFinite(number) ? number : String(number);
}

/** As the service writes it: in UTC where there is a zone. */
function asMoment(text: string, zone: boolean): string {
  const plain = text.replace(' ', 'T');
  const full = /T\d\d:\d\d$|T\d\d:\d\d(?=Z|[+-])/.test(plain)
    ? plain.replace(/(T\d\d:\d\d)/, '$1:00')
    : plain;
  if (!zone || full.endsWith('Z')) return full;
  const shifted = new Date(full);
  return Number.isNaN(shifted.getTime()) ? full : shifted.toISOString().replace('.000Z', 'Z');
}
