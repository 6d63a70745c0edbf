import type { CheckedColumn } from '@ephoros/core/check';

/** A type of a key's column whose values all take the same room, written as PostgreSQL writes them. */
export type PlaceKind = 'int16' | 'int32' | 'int64' | 'uuid' | 'date' | 'timestamp' | 'timestamptz';

const widths: Readonly<Record<PlaceKind, number>> = {
  int16: 2,
  int32: 4,
  int64: 8,
  uuid: 16,
  date: 4,
  timestamp: 8,
  timestamptz: 8,
};

/** Bytes of a key at most. */
const mostBytes = 32;

/** What the columns of a key take up; undefined where the room of some depends on the value. */
export function placeKindsOf(columns: readonly CheckedColumn[]): readonly PlaceKind[] | undefined {
  const kinds = columns.map(kindOf).filter((kind) => kind !== undefined);
  const whole = kinds.length === columns.length && kinds.length > 0;
  return whole && widthOf(kinds) <= mostBytes ? kinds : undefined;
}

function kindOf({ type }: CheckedColumn): PlaceKind | undefined {
  if (type.domain === true || type.databaseType !== undefined) return undefined;
  switch (type.kind) {
    case 'integer':
      return `int${type.bits}`;
    case 'uuid':
    case 'date':
      return type.kind;
    case 'timestamp':
      return type.zone ? 'timestamptz' : 'timestamp';
    default:
      return undefined;
  }
}

/** Bytes of a key. */
export function widthOf(kinds: readonly PlaceKind[]): number {
  return kinds.reduce((sum, kind) => sum + widths[kind], 0);
}

/** Writes a key as PostgreSQL has it in bytes; false where a value has no place in its room, such as an infinite date. */
export function writeKey(
  kinds: readonly PlaceKind[],
  key: readonly (string | null)[],
  into: Buffer,
  at: number,
): boolean {
  let place = at;
  for (let index = 0; index < kinds.length; index += 1) {
    const kind = kinds[index];
    const text = key[index];
    if (kind === undefined || text === null || text === undefined) return false;
    if (!writeValue(kind, text, into, place)) return false;
    place += widths[kind];
  }
  return true;
}

/** Bytes of a value. */
export function widthOfKind(kind: PlaceKind): number {
  return widths[kind];
}

/** Reads a key, as PostgreSQL writes its values in texts. */
export function readKey(kinds: readonly PlaceKind[], from: Buffer, at: number): readonly string[] {
  let place = at;
  return kinds.map((kind) => {
    const text = readValue(kind, from, place);
    place += widths[kind];
    return text;
  });
}

const millisecondsOfDay = 86_400_000;
/** Where PostgreSQL's days and moments are counted from, 2000-01-01, counted from 1970-01-01. */
const firstDay = 10_957;
const firstMicros = BigInt(firstDay) * BigInt(millisecondsOfDay) * 1_000n;
/** The days from 0001-01-01 up to, not including, 10000-01-01, counted from there; others are written otherwise. */
const leastDay = -730_119;
const endDay = 2_921_940;
const microsOfDay = BigInt(millisecondsOfDay) * 1_000n;

/** Whether bytes that PostgreSQL itself has written are a value that a place has room for. */
export function isPlaceable(kind: PlaceKind, from: Buffer, at: number): boolean {
  if (kind === 'date') return isWithin(from.readInt32BE(at));
  if (kind !== 'timestamp' && kind !== 'timestamptz') return true;
  const micros = from.readBigInt64BE(at);
  return micros >= BigInt(leastDay) * microsOfDay && micros < BigInt(endDay) * microsOfDay;
}

function isWithin(day: number): boolean {
  return day >= leastDay && day < endDay;
}

function writeValue(kind: PlaceKind, text: string, into: Buffer, at: number): boolean {
  switch (kind) {
    case 'int16':
      into.writeInt16BE(Number(text), at);
      return true;
    case 'int32':
      into.writeInt32BE(Number(text), at);
      return true;
    case 'int64':
      return writeInt64(text, into, at);
    case 'uuid':
      return into.write(text.replaceAll('-', ''), at, 'hex') === 16;
    case 'date': {
      if (!dateText.test(text)) return false;
      into.writeInt32BE(Date.parse(`${text}T00:00:00Z`) / millisecondsOfDay - firstDay, at);
      return true;
    }
    case 'timestamp':
    case 'timestamptz': {
      const [, second, fraction = ''] = timestampText.exec(text) ?? [];
      if (second === undefined) return false;
      const milliseconds = Date.parse(`${second.replace(' ', 'T')}Z`);
      const micros = BigInt(milliseconds) * 1_000n + BigInt(fraction.padEnd(6, '0'));
      into.writeBigInt64BE(micros - firstMicros, at);
      return true;
    }
    default:
      throw new Error(`no place for ${JSON.stringify(kind satisfies never)}`);
  }
}

const dateText = /^\d{4}-\d\d-\d\d$/;
const timestampText = /^(\d{4}-\d\d-\d\d \d\d:\d\d:\d\d)(?:\.(\d{1,6}))?(?:\+00)?$/;

const half = 2 ** 32;

/** Whole numbers that a double holds exactly go without a BigInt, which takes many times as long. */
function writeInt64(text: string, into: Buffer, at: number): boolean {
  const number = Number(text);
  if (!Number.isSafeInteger(number)) {
    into.writeBigInt64BE(BigInt(text), at);
    return true;
  }
  const high = Math.floor(number / half);
  into.writeInt32BE(high, at);
  into.writeUInt32BE(number - high * half, at + 4);
  return true;
}

function readValue(kind: PlaceKind, from: Buffer, at: number): string {
  switch (kind) {
    case 'int16':
      return String(from.readInt16BE(at));
    case 'int32':
      return String(from.readInt32BE(at));
    case 'int64':
      return String(from.readBigInt64BE(at));
    case 'uuid': {
      const hex = from.toString('hex', at, at + 16);
      const parts = [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20)];
      return [...parts, hex.slice(20)].join('-');
    }
    case 'date':
      return new Date((from.readInt32BE(at) + firstDay) * millisecondsOfDay)
        .toISOString()
        .slice(0, 10);
    case 'timestamp':
    case 'timestamptz': {
      const micros = from.readBigInt64BE(at) + firstMicros;
      const fraction = ((micros % 1_000_000n) + 1_000_000n) % 1_000_000n;
      const seconds = Number((micros - fraction) / 1_000_000n);
      const whole = new Date(seconds * 1_000).toISOString().slice(0, 19).replace('T', ' ');
      const digits = fraction === 0n ? '' : `.${String(fraction).padStart(6, '0')}`;
      // As PostgreSQL writes it: without zeros at the end.
      return whole + digits.replace(/0+$/, '') + (kind === 'timestamptz' ? '+00' : '');
    }
    default:
      throw new Error(`no place for ${JSON.stringify(kind satisfies never)}`);
  }
}
