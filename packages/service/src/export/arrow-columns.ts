import type { ColumnType } from '@ephoros/core/schema';
import {
  Binary,
  Bool,
  DateDay,
  Decimal,
  Float32,
  Float64,
  Int16,
  Int32,
  Int64,
  makeData,
  TimeMicrosecond,
  TimestampMicrosecond,
  Utf8,
  type Data,
  type DataType,
} from 'apache-arrow';

type Texts = readonly (string | null)[];

/** A column of Arrow: its type, and its values from texts as PostgreSQL writes them. */
export interface ArrowColumn {
  readonly type: DataType;
  readonly build: (texts: Texts) => Data;
}

/** Digits of a decimal of 128 bits. */
const mostDigits = 38;

/** The type that holds every value of a column as it is; a text where there is none. */
export function arrowColumn(type: ColumnType): ArrowColumn {
  switch (type.kind) {
    case 'integer':
      if (type.bits === 64) return fixed(new Int64(), BigInt64Array, BigInt);
      return type.bits === 16
        ? fixed(new Int16(), Int16Array, Number)
        : fixed(new Int32(), Int32Array, Number);
    case 'float':
      return type.bits === 32
        ? fixed(new Float32(), Float32Array, Number)
        : fixed(new Float64(), Float64Array, Number);
    case 'numeric': {
      const { precision = Infinity, scale = 0 } = type;
      const holds = precision <= mostDigits && scale >= 0 && scale <= precision;
      return holds ? decimals(precision, scale) : texts;
    }
    case 'boolean':
      return booleans;
    case 'date':
      return fixed(new DateDay(), Int32Array, dayOf);
    case 'time':
      return type.zone ? texts : fixed(new TimeMicrosecond(), BigInt64Array, microsecondsOf);
    case 'timestamp':
      return fixed(new TimestampMicrosecond(type.zone ? 'UTC' : null), BigInt64Array, moments());
    case 'binary':
      return { type: new Binary(), build: (rows) => pieces(new Binary(), rows, bytes) };
    default:
      return texts;
  }
}

const texts: ArrowColumn = {
  type: new Utf8(),
  build: (rows) =>
    pieces(new Utf8(), rows, {
      length: (text) => Buffer.byteLength(text),
      write: (text, into, at) => into.write(text, at),
    }),
};

/** A bit for each row that has a value. */
function present(rows: Texts): { readonly nullBitmap: Uint8Array; readonly nullCount: number } {
  const nullBitmap = new Uint8Array(Math.ceil(rows.length / 8));
  let nullCount = 0;
  for (const [index, text] of rows.entries()) {
    if (text === null) nullCount += 1;
    else mark(nullBitmap, index);
  }
  return { nullBitmap, nullCount };
}

function mark(bits: Uint8Array, index: number): void {
  bits[index >> 3] = (bits[index >> 3] ?? 0) | (1 << (index & 7));
}

/** Values of a fixed size each. */
function fixed<Value>(
  type: DataType,
  Kind: new (length: number) => Record<number, Value>,
  read: (text: string) => Value,
): ArrowColumn {
  return {
    type,
    build: (rows) => {
      const data = new Kind(rows.length);
      for (const [index, text] of rows.entries()) if (text !== null) data[index] = read(text);
      return dataOf({ type, length: rows.length, ...present(rows), data });
    },
  };
}

/** Values by their parts; the library would have the arrays of each type by its name. */
const dataOf = makeData as (parts: object) => Data;

/** How a text becomes bytes: how many, and where they stand. */
interface Bytes {
  readonly length: (text: string) => number;
  readonly write: (text: string, into: Buffer, at: number) => void;
}

/** As PostgreSQL writes them: `\\x`, and two digits for each. */
const bytes: Bytes = {
  length: (text) => text.length / 2 - 1,
  write: (text, into, at) => into.write(text.slice(2), at, 'hex'),
};

/** Values of any length behind each other. */
function pieces(type: DataType, rows: Texts, { length, write }: Bytes): Data {
  const valueOffsets = new Int32Array(rows.length + 1);
  let end = 0;
  for (const [index, text] of rows.entries()) {
    if (text !== null) end += length(text);
    valueOffsets[index + 1] = end;
  }
  const data = Buffer.alloc(end);
  for (const [index, text] of rows.entries()) {
    if (text !== null) write(text, data, valueOffsets[index] ?? 0);
  }
  return dataOf({ type, length: rows.length, ...present(rows), valueOffsets, data });
}

const booleans: ArrowColumn = {
  type: new Bool(),
  build: (rows) => {
    const data = new Uint8Array(Math.ceil(rows.length / 8));
    for (const [index, text] of rows.entries()) if (text === 't') mark(data, index);
    return dataOf({ type: new Bool(), length: rows.length, ...present(rows), data });
  },
};

/** Of 128 bits. What is no number has no place among decimals: it is null. */
function decimals(precision: number, scale: number): ArrowColumn {
  const type = new Decimal(scale, precision, 128);
  return {
    type,
    build: (given) => {
      const rows = given.map((text) => (text === 'NaN' ? null : text));
      const words = new BigUint64Array(rows.length * 2);
      for (const [index, text] of rows.entries()) {
        if (text === null) continue;
        const [whole = '', part = ''] = text.split('.');
        const digits = BigInt(`${whole}${part.padEnd(scale, '0')}`);
        words[index * 2] = BigInt.asUintN(64, digits);
        words[index * 2 + 1] = BigInt.asUintN(64, digits >> 64n);
      }
      const data = new Uint32Array(words.buffer);
      return dataOf({ type, length: rows.length, ...present(rows), data });
    },
  };
}

const dayMicroseconds = 86_400_000_000n;
/** Infinity is the furthest that the type can hold, as it is in PostgreSQL. */
const furthestDay = 2 ** 31 - 1;
const furthestMoment = 2n ** 63n - 1n;

/** Days since 1970-01-01, in the calendar that PostgreSQL counts by before 1582 too. */
function dayOf(text: string): number {
  if (text === 'infinity') return furthestDay;
  if (text === '-infinity') return -furthestDay - 1;
  const [, years = '', month = '', day = ''] = /^(\d+)-(\d+)-(\d+)/.exec(text) ?? [];
  const year = text.endsWith('BC') ? 1 - Number(years) : Number(years);
  // Every 400 years are as long, and `Date` does not reach as far as PostgreSQL does.
  const within = ((year % 400) + 400) % 400;
  const from = new Date(0).setUTCFullYear(2000 + within, Number(month) - 1, Number(day));
  return from / 86_400_000 + ((year - within - 2000) / 400) * 146_097;
}

/** Microseconds of a time since midnight. */
function microsecondsOf(text: string): bigint {
  const [, hours = '', minutes = '', seconds = '', part = ''] =
    /(\d+):(\d\d):(\d\d)(?:\.(\d+))?/.exec(text) ?? [];
  const whole = (Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds);
  return BigInt(whole) * 1_000_000n + BigInt(part.padEnd(6, '0'));
}

/** Reads microseconds since 1970, of moments in UTC. The day before is remembered: most follow on the same one. */
function moments(): (text: string) => bigint {
  let known = '';
  let began = 0n;
  return (text) => {
    if (text === 'infinity') return furthestMoment;
    if (text === '-infinity') return -furthestMoment - 1n;
    const space = text.indexOf(' ');
    const day = text.endsWith('BC') ? text : text.slice(0, space);
    if (day !== known) began = BigInt(dayOf(day)) * dayMicroseconds;
    known = day;
    return began + microsecondsOf(text.slice(space));
  };
}
