import type { Expression } from '../expression/index.ts';
import { nearest, problem, type Problem } from '../problem/index.ts';
import { typeName, type ColumnType } from '../schema/index.ts';

/** A literal of the filter language. */
export type Literal = Extract<
  Expression,
  { kind: 'text' | 'number' | 'boolean' | 'date' | 'timestamp' }
>;

const zonedTimestamp: ColumnType = { kind: 'timestamp', zone: true };

type Read = { readonly value: string; readonly type: ColumnType } | { readonly problem: Problem };

const ranges = {
  16: [-(2n ** 15n), 2n ** 15n - 1n],
  32: [-(2n ** 31n), 2n ** 31n - 1n],
  64: [-(2n ** 63n), 2n ** 63n - 1n],
} as const;

const uuid = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
const time = /^(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d{1,6})?)?$/;
const timeWithZone = /^(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d{1,6})?)?(?:Z|[+-]\d\d:\d\d)$/;
const duration =
  /^-?P(?=.)(?:\d+Y)?(?:\d+M)?(?:\d+W)?(?:\d+D)?(?:T(?=.)(?:\d+H)?(?:\d+M)?(?:\d+(?:\.\d+)?S)?)?$/;

/** The type that a literal has by itself. */
export function literalType(literal: Literal): ColumnType {
  switch (literal.kind) {
    case 'text':
      return { kind: 'text' };
    case 'number':
      return { kind: 'numeric' };
    case 'boolean':
      return { kind: 'boolean' };
    case 'date':
      return { kind: 'date' };
    case 'timestamp':
      return { kind: 'timestamp', zone: true };
    default:
      throw new Error(`unknown literal ${JSON.stringify(literal satisfies never)}`);
  }
}

/** What answers write as text, for JSON cannot hold it: whole and decimal numbers, NaN aside. */
const decimalText = /^[+-]?\d+(?:\.\d+)?(?:e[+-]?\d+)?$/i;

/** A text that is written as answers write numbers, dates and moments, as the literal that it means. */
function meantBy(literal: Literal, { kind }: ColumnType): Literal {
  if (literal.kind !== 'text') return literal;
  const { value, span } = literal;
  const numeric = kind === 'integer' || kind === 'numeric' || kind === 'float';
  if (numeric && decimalText.test(value)) return { kind: 'number', value, span };
  if (kind !== 'date' && kind !== 'timestamp') return literal;
  if (isDate(value)) return { kind: 'date', value, span };
  return 'value' in timestampAs(value, zonedTimestamp)
    ? { kind: 'timestamp', value, span }
    : literal;
}

/**
 * A literal as a value of a type, in PostgreSQL's notation; or what is wrong with it. Text is
 * never cast: it stands for text, and for the types that have no literal of their own (enum
 * values, UUIDs, times, intervals as ISO 8601 durations), in their notation. Numbers, dates and
 * moments may stand in quotes as answers write them, so that the values of a row fit.
 */
export function valueAs(given: Literal, type: ColumnType): Read {
  const literal = meantBy(given, type);
  switch (type.kind) {
    case 'integer':
    case 'numeric':
    case 'float':
      return literal.kind === 'number' ? numberAs(literal.value, type) : mismatch(literal, type);
    case 'boolean':
      if (literal.kind !== 'boolean') return mismatch(literal, type);
      return { value: literal.value ? 'true' : 'false', type };
    case 'date':
      if (literal.kind === 'date') return dateAs(literal.value, type);
      // Compared as moments: a date stands for its midnight.
      if (literal.kind === 'timestamp') return timestampAs(literal.value, zonedTimestamp);
      return mismatch(literal, type);
    case 'timestamp':
      if (literal.kind === 'timestamp') return timestampAs(literal.value, type);
      if (literal.kind === 'date') return dateAs(literal.value, type);
      return mismatch(literal, type);
    case 'text':
    case 'uuid':
    case 'time':
    case 'interval':
    case 'enum':
      return literal.kind === 'text' ? textAs(literal.value, type) : mismatch(literal, type);
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return mismatch(literal, type);
    default:
      throw new Error(`unknown type ${JSON.stringify(type satisfies never)}`);
  }
}

function numberAs(spelling: string, type: ColumnType): Read {
  const { digits, exponent } = parts(spelling);
  // Beyond this PostgreSQL's numeric would have to hold thousands of digits.
  if (Math.abs(exponent) > 400 || digits.length > 400) {
    return { problem: problem('number-out-of-range', { least: '-1e400', most: '1e400' }) };
  }
  if (type.kind === 'float') {
    const value = type.bits === 32 ? Math.fround(Number(spelling)) : Number(spelling);
    // PostgreSQL refuses what becomes infinite, and what becomes zero without being it.
    const lost = value === 0 && /[1-9]/.test(digits);
    if (Number.isFinite(value) && !lost) return { value: spelling, type };
    const most = type.bits === 32 ? '3.4e38' : '1.8e308';
    return { problem: problem('number-out-of-range', { least: `-${most}`, most }) };
  }
  if (type.kind !== 'integer') return { value: spelling, type: { kind: 'numeric' } };
  const whole = wholeNumber(spelling);
  // What the type cannot hold is compared as it is: a fraction is not rounded, nothing overflows.
  if (whole === undefined) return { value: spelling, type: { kind: 'numeric' } };
  const bits = ([type.bits, 32, 64] as const).find((one) => {
    const [least, most] = ranges[one];
    return one >= type.bits && whole >= least && whole <= most;
  });
  return bits === undefined
    ? { value: String(whole), type: { kind: 'numeric' } }
    : { value: String(whole), type: bits === type.bits ? type : { kind: 'integer', bits } };
}

function parts(spelling: string): { digits: string; exponent: number } {
  const [mantissa = '', power = '0'] = spelling.split(/e/i);
  return { digits: mantissa, exponent: Number(power) };
}

/** The value of "12", "12.0" or "1.2e1" as 12n; undefined for a fraction. */
function wholeNumber(spelling: string): bigint | undefined {
  const { digits, exponent } = parts(spelling);
  const negative = digits.startsWith('-');
  const [before = '', after = ''] = digits.replace(/^[-+]/, '').split('.');
  const shift = exponent - after.length;
  const all = BigInt(before + after || '0');
  const size = 10n ** BigInt(Math.abs(shift));
  if (shift < 0 && all % size !== 0n) return undefined;
  const value = shift < 0 ? all / size : all * size;
  return negative ? -value : value;
}

function dateAs(text: string, type: ColumnType): Read {
  if (isDate(text)) {
    // A date stands for its midnight, in UTC where the column has a zone.
    if (type.kind === 'date') return { value: text, type };
    const zoned = type.kind === 'timestamp' && type.zone;
    return { value: `${text}T00:00:00${zoned ? 'Z' : ''}`, type };
  }
  return invalid('date', "DATE('2024-02-29')");
}

function timestampAs(text: string, type: ColumnType): Read {
  const match = /^(\d{4}-\d\d-\d\d)T(\d\d:\d\d:\d\d)(?:\.(\d{1,100}))?(Z|[+-]\d\d:\d\d)$/.exec(
    text,
  );
  const [, day = '', clock = '', fraction = '', zone = ''] = match ?? [];
  const zoneFits = zone === 'Z' || /^[+-](?:0\d|1[0-5]):[0-5]\d$/.test(zone);
  if (!match || !isDate(day) || !time.test(clock) || !zoneFits) {
    return invalid('timestamp', "TIMESTAMP('2024-02-29T10:15:00Z')");
  }
  if (type.kind === 'timestamp' && type.zone && fraction.length <= 6) return { value: text, type };
  // PostgreSQL keeps microseconds: what is finer is rounded, half of one up.
  const digits = fraction.padEnd(7, '0');
  const micros = Number(digits.slice(0, 6)) + (digits.charAt(6) >= '5' ? 1 : 0);
  const seconds = Date.parse(`${day}T${clock}${zone}`) + Math.floor(micros / 1_000_000) * 1000;
  const shifted = new Date(seconds).toISOString();
  // A column without a zone is read as UTC.
  const zoned = type.kind === 'timestamp' && type.zone ? 'Z' : '';
  const rest = String(micros % 1_000_000).padStart(6, '0');
  const point = fraction === '' ? '' : `.${fraction.length <= 6 ? fraction : rest}`;
  const year = /^[+-]/.test(shifted) ? undefined : shifted.slice(0, 19);
  return year === undefined
    ? invalid('timestamp', "TIMESTAMP('2024-02-29T10:15:00Z')")
    : { value: `${year}${point}${zoned}`, type };
}

function isDate(text: string): boolean {
  const [, year, month, day] = (/^(\d{4})-(\d\d)-(\d\d)$/.exec(text) ?? []).map(Number);
  if (year === undefined || month === undefined || day === undefined || year < 1) return false;
  const date = new Date(0);
  date.setUTCFullYear(year, month - 1, day);
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
}

function textAs(value: string, type: ColumnType): Read {
  switch (type.kind) {
    case 'enum': {
      if (type.values.includes(value)) return { value, type };
      const facts = {
        type: type.name,
        near: nearest(value, type.values),
        allowed: type.values.join(', '),
      };
      return { problem: problem('unknown-enum-value', facts) };
    }
    case 'uuid':
      return uuid.test(value)
        ? { value, type }
        : invalid('uuid', "'0f8fad5b-d9cb-469f-a165-70867728950e'");
    case 'time': {
      const [notation, example] = type.zone ? [timeWithZone, "'10:15:00Z'"] : [time, "'10:15:00'"];
      return notation.test(value) ? { value, type } : invalid('time', example);
    }
    case 'interval':
      return duration.test(value)
        ? { value: signedFields(value), type }
        : invalid('interval', "'P1DT2H30M'");
    default:
      return { value, type };
  }
}

/** PostgreSQL knows a sign of each field, and none of the whole: -P1DT2H is P-1DT-2H there. */
function signedFields(text: string): string {
  return text.startsWith('-') ? text.slice(1).replace(/\d+(?:\.\d+)?(?=[YMWDHS])/g, '-$&') : text;
}

function invalid(type: string, notation: string): Read {
  return { problem: problem('invalid-value', { type, notation }) };
}

function mismatch(literal: Literal, type: ColumnType): Read {
  const found = `a ${typeName(literalType(literal))}`;
  const facts = { expected: `a ${typeName(type)}`, found, hint: notationHint(literal, type) };
  return { problem: problem('type-mismatch', facts) };
}

function notationHint(literal: Literal, type: ColumnType): string | undefined {
  if (literal.kind === 'text') {
    if (type.kind === 'date') return "Write dates as DATE('2024-02-29').";
    if (type.kind === 'timestamp') {
      return "Write DATE('2024-02-29') or TIMESTAMP('2024-02-29T10:15:00Z').";
    }
    if (type.kind === 'integer' || type.kind === 'numeric' || type.kind === 'float') {
      return 'Write numbers without quotes.';
    }
    if (type.kind === 'boolean') return 'Write TRUE or FALSE without quotes.';
  }
  if (literal.kind === 'timestamp' && type.kind === 'date') return "Write DATE('2024-02-29').";
  return "Write text in single quotes: '…'.";
}
