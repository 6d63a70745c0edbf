import { microseconds, offsetOf } from '../moment/index.ts';
import {
  blankPadded,
  encodingOf,
  ignoresCase,
  type ColumnType,
  type Encoding,
} from '../schema/index.ts';
import { compareDecimals, decimal, printDecimal, toFloat, type Decimal } from '../decimal/index.ts';
import type { TextOrder } from './text-order.ts';

/**
 * A value as the executor computes with it. Times are microseconds; `order` places enum values. A
 * text that is compared with letter case ignored has what it is compared by in `folded`.
 */
export type Computed =
  | { readonly kind: 'text'; readonly text: string; readonly folded?: string }
  | { readonly kind: 'truth'; readonly value: boolean }
  | { readonly kind: 'decimal'; readonly value: Decimal }
  | { readonly kind: 'float'; readonly value: number; readonly bits: 32 | 64 }
  | { readonly kind: 'order'; readonly value: bigint; readonly text: string }
  | { readonly kind: 'list'; readonly items: readonly (Computed | null)[] };

/**
 * Reads a value from JSON in its column's encoding, or from PostgreSQL's or the filter
 * language's notation, which differ from it in little. Null stays null.
 */
export function compute(value: unknown, type: ColumnType): Computed | null {
  if (value === null || value === undefined) return null;
  if (type.kind === 'array') {
    const items = Array.isArray(value) ? (value as unknown[]) : [];
    return { kind: 'list', items: items.map((item) => compute(item, elementOf(type, item))) };
  }
  // Most values of rows are these: nothing is written down and read again for them.
  if (typeof value === 'number' && type.kind === 'float') return float(value, type.bits);
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  switch (type.kind) {
    case 'integer':
    case 'numeric':
      return { kind: 'decimal', value: decimal(text) };
    case 'float':
      return float(Number(text), type.bits);
    case 'boolean':
      return { kind: 'truth', value: text === 'true' || text === 't' };
    case 'date':
    case 'timestamp':
      return { kind: 'order', value: microseconds(text), text };
    case 'time':
      return { kind: 'order', value: timeOfDay(text), text };
    case 'interval':
      return { kind: 'order', value: lengthOf(text), text };
    case 'enum':
      return { kind: 'order', value: BigInt(type.values.indexOf(text)), text };
    case 'text':
      if (type.databaseType === blankPadded) return { kind: 'text', text: text.replace(/ +$/, '') };
      return ignoresCase(type)
        ? { kind: 'text', text, folded: text.toLowerCase() }
        : { kind: 'text', text };
    case 'uuid':
    case 'json':
    case 'binary':
    case 'range':
    case 'opaque':
      return { kind: 'text', text };
    default:
      throw new Error(`unknown type ${JSON.stringify(type satisfies never)}`);
  }
}

function float(value: number, bits: 32 | 64): Computed {
  return { kind: 'float', value: bits === 32 ? Math.fround(value) : value, bits };
}

/** The value as it stands in an answer's JSON. */
export function written(value: Computed | null, type: ColumnType, encoding: Encoding): unknown {
  if (value === null) return null;
  switch (value.kind) {
    case 'text':
      return value.text;
    case 'truth':
      return value.value;
    case 'order':
      return value.text;
    case 'float':
      return Number.isFinite(value.value) ? value.value : String(value.value);
    case 'decimal': {
      const text = printDecimal(value.value);
      return encoding === 'number' ? Number(text) : text;
    }
    case 'list':
      return value.items.map((item) =>
        type.kind === 'array' ? written(item, type.element, encodingOf(type.element)) : null,
      );
    default:
      throw new Error(`cannot write ${JSON.stringify(value satisfies never)}`);
  }
}

function elementOf(type: Extract<ColumnType, { kind: 'array' }>, item: unknown): ColumnType {
  return Array.isArray(item) ? type : type.element;
}

/** Negative, zero or positive. Values of unlike number types are compared as PostgreSQL does. */
export function compareComputed(a: Computed, b: Computed, textOrder: TextOrder): number {
  if (a.kind === 'text' && b.kind === 'text') {
    return a.folded !== undefined && b.folded !== undefined
      ? textOrder(a.folded, b.folded)
      : textOrder(a.text, b.text);
  }
  if (a.kind === 'truth' && b.kind === 'truth') return Number(a.value) - Number(b.value);
  if (a.kind === 'decimal' && b.kind === 'decimal') return compareDecimals(a.value, b.value);
  if (a.kind === 'order' && b.kind === 'order') {
    return a.value < b.value ? -1 : a.value > b.value ? 1 : 0;
  }
  if (a.kind === 'list' && b.kind === 'list') return compareLists(a.items, b.items, textOrder);
  return compareFloats(floatOf(a), floatOf(b));
}

export function floatOf(value: Computed): number {
  if (value.kind === 'float') return value.value;
  if (value.kind === 'decimal') return toFloat(value.value);
  throw new Error(`a ${value.kind} is no number`);
}

/** Lists by their items; a missing item is the greatest, a shorter list comes first. */
function compareLists(
  a: readonly (Computed | null)[],
  b: readonly (Computed | null)[],
  textOrder: TextOrder,
): number {
  for (let at = 0; at < a.length && at < b.length; at += 1) {
    const [one, other] = [a[at] ?? null, b[at] ?? null];
    if (one === null || other === null) {
      if (one !== other) return one === null ? 1 : -1;
      continue;
    }
    const difference = compareComputed(one, other, textOrder);
    if (difference !== 0) return difference;
  }
  return a.length - b.length;
}

/** NaN is equal to itself and greater than all other numbers. */
function compareFloats(a: number, b: number): number {
  if (Number.isNaN(a) || Number.isNaN(b)) return Number(Number.isNaN(a)) - Number(Number.isNaN(b));
  return a < b ? -1 : a > b ? 1 : 0;
}

function timeOfDay(text: string): bigint {
  const [, hours = '0', minutes = '0', seconds = '0', fraction = '', zone = ''] =
    /^(\d\d):(\d\d)(?::(\d\d)(?:\.(\d+))?)?(.*)$/.exec(text) ?? [];
  const whole = BigInt((Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds));
  return whole * 1_000_000n + BigInt(fraction.padEnd(6, '0').slice(0, 6) || '0') - offsetOf(zone);
}

/** PostgreSQL compares intervals with months of thirty days and days of 24 hours. */
function lengthOf(text: string): bigint {
  const match =
    /^(-)?P(?:(-?\d+)Y)?(?:(-?\d+)M)?(?:(-?\d+)W)?(?:(-?\d+)D)?(?:T(?:(-?\d+)H)?(?:(-?\d+)M)?(?:(-?\d+)(?:\.(\d+))?S)?)?$/.exec(
      text,
    );
  const [years = 0, months = 0, weeks = 0, days = 0, hours = 0, minutes = 0, seconds = 0] = (
    match ?? []
  )
    .slice(2, 9)
    .map((amount: string | undefined) => Number(amount ?? 0));
  const fraction = BigInt((match?.[9] ?? '').padEnd(6, '0').slice(0, 6) || '0');
  const allDays = (years * 12 + months) * 30 + weeks * 7 + days;
  const whole = BigInt((allDays * 24 + hours) * 3600 + minutes * 60 + seconds) * 1_000_000n;
  const length = whole + (match?.[8]?.startsWith('-') === true ? -fraction : fraction);
  return match?.[1] === '-' ? -length : length;
}
