import type { Value } from '../answer/index.ts';
import { isWrittenAs, keyValue, valueAs } from '../check/index.ts';
import { readJson } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { arrayItem, typeName, type ColumnType } from '../schema/index.ts';

/** A value in PostgreSQL's notation, null for null; or what is wrong with it. */
export type ReadValue = { readonly text: string | null } | { readonly problem: Problem };

const span = { start: 0, end: 0 };

/**
 * A value as answers hold it, in PostgreSQL's notation. Numbers may also be texts; nothing is
 * rounded or cut to fit. `raw` is its JSON text, where that is known: it has all digits.
 */
export function writtenValue(value: Value, type: ColumnType, raw?: string): ReadValue {
  if (value === null) return { text: null };
  switch (type.kind) {
    case 'integer':
    case 'numeric':
    case 'float':
      return numberOf(value, type, raw);
    case 'boolean':
      return typeof value === 'boolean' || value === 'true' || value === 'false'
        ? { text: String(value) }
        : misfit(value, type);
    case 'json':
      return { text: raw ?? JSON.stringify(value) };
    case 'array':
      return Array.isArray(value) ? listOf(value, type.element, raw) : misfit(value, type);
    case 'text':
      return typeof value === 'string' ? textOf(value, type) : misfit(value, type);
    case 'date':
    case 'time':
    case 'timestamp':
    case 'interval':
    case 'uuid':
    case 'enum':
      return typeof value === 'string' ? notationOf(value, type) : misfit(value, type);
    case 'binary': {
      if (typeof value !== 'string') return misfit(value, type);
      const text = keyValue(value, type);
      return text === undefined ? invalid(type, 'base64 (RFC 4648)') : { text };
    }
    case 'range':
    case 'opaque':
      return typeof value === 'string' ? textOf(value, { kind: 'text' }) : misfit(value, type);
    default:
      throw new Error(`no notation for ${JSON.stringify(type satisfies never)}`);
  }
}

type NumberType = Extract<ColumnType, { kind: 'integer' | 'numeric' | 'float' }>;

function numberOf(value: Value, type: NumberType, raw: string | undefined): ReadValue {
  if (typeof value !== 'number' && typeof value !== 'string') return misfit(value, type);
  const spelled = typeof value === 'number' ? (raw ?? String(value)) : value.trim();
  const endless = /^(?:NaN|-?Infinity)$/.test(spelled);
  // A numeric of limited precision holds NaN, and no infinity.
  const limited = type.kind === 'numeric' && type.precision !== undefined;
  if (endless && type.kind !== 'integer' && (spelled === 'NaN' || !limited)) {
    return { text: spelled };
  }
  const read = valueAs({ kind: 'text', value: spelled, span }, type);
  if ('problem' in read) {
    return read.problem.code === 'number-out-of-range' ? read : invalid(type, numberExample(type));
  }
  if (type.kind === 'float') return { text: read.value };
  if (type.kind === 'integer') return wholeOf(read, type);
  return decimalOf(read.value, type);
}

function numberExample({ kind }: NumberType): string {
  return kind === 'integer' ? '42' : '4.5';
}

function wholeOf(
  read: { readonly value: string; readonly type: ColumnType },
  type: Extract<ColumnType, { kind: 'integer' }>,
): ReadValue {
  if (!/^[+-]?\d+$/.test(read.value)) return invalid(type, '42');
  const most = 2n ** BigInt(type.bits - 1);
  const whole = BigInt(read.value.replace(/^\+/, ''));
  return whole >= -most && whole < most ? { text: String(whole) } : outOf(-most, most - 1n);
}

function decimalOf(
  spelled: string,
  { precision, scale = 0 }: Extract<ColumnType, { kind: 'numeric' }>,
): ReadValue {
  if (precision === undefined) return { text: spelled };
  const [, whole = '', fraction = '', power = '0'] =
    /^[+-]?(\d+)(?:\.(\d+))?(?:e([+-]?\d+))?$/i.exec(spelled) ?? [];
  const shift = Number(power);
  const digits = (whole + fraction).replace(/^0+/, '');
  // Where the last digit stands that is not 0: behind the point, or before it where it is negative.
  const trailing = digits.length - digits.replace(/0+$/, '').length;
  const behind = fraction.length - trailing - shift;
  const before = digits === '' ? 0 : digits.length - fraction.length + shift;
  if (digits !== '' && behind > scale && !/^0*$/.test(digits)) {
    return { problem: problem('too-many-decimals', { most: Math.max(scale, 0) }) };
  }
  if (before <= precision - scale) return { text: spelled };
  const nines = precision > scale ? '9'.repeat(precision - scale) : '0';
  const most = scale > 0 ? `${nines}.${'9'.repeat(scale)}` : nines;
  return { problem: problem('number-out-of-range', { least: `-${most}`, most }) };
}

function outOf(least: bigint, most: bigint): ReadValue {
  return {
    problem: problem('number-out-of-range', { least: String(least), most: String(most) }),
  };
}

// Half of a surrogate pair, or the character that ends a text in C.
const forbidden = /\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

function textOf(value: string, type: ColumnType): ReadValue {
  if (forbidden.test(value)) return { problem: problem('forbidden-character', {}) };
  const most = type.kind === 'text' ? type.maxLength : undefined;
  if (most === undefined || value.length <= most) return { text: value };
  const found = [...value].length;
  return found <= most ? { text: value } : { problem: problem('text-too-long', { most, found }) };
}

const examples: Readonly<Partial<Record<ColumnType['kind'], string>>> = {
  date: '2024-02-29',
  time: '10:15:00',
  timestamp: '2024-02-29T10:15:00Z',
  interval: 'P1DT2H30M',
  uuid: '0f8fad5b-d9cb-469f-a165-70867728950e',
};

// What PostgreSQL writes beyond the common notations: infinity, years before Christ and past 9999,
// the end of a day, zones with seconds.
const beyond = /^-?infinity$| BC$|^\d{5,}-\d\d-\d\d/;
const endOfDay = /^24:00:00(?:\.0+)?(?:Z|[+-]\d\d(?::\d\d){0,2})?$/;
const zoneWithSeconds = /^\d\d:\d\d:\d\d(?:\.\d+)?[+-]\d\d:\d\d:\d\d$/;
const withoutZone = /^\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d(?:\.\d{1,6})?)?$/;

function notationOf(value: string, type: ColumnType): ReadValue {
  const text = value.trim();
  const example = examples[type.kind] ?? '';
  if (beyond.test(text) && isWrittenAs(text, type)) return { text };
  if (type.kind === 'time' && endOfDay.test(text)) return { text };
  if (type.kind === 'time' && type.zone && zoneWithSeconds.test(text)) return { text };
  if (type.kind === 'interval' && isWrittenAs(text, type)) return { text };
  if (type.kind === 'timestamp' && withoutZone.test(text)) {
    // Without a zone it is a moment only where the column has none either.
    if (type.zone) return invalid(type, example);
    const whole = notationOf(`${text.length === 16 ? `${text}:00` : text}Z`, type);
    return 'problem' in whole ? whole : { text: whole.text?.replace(/Z$/, '') ?? null };
  }
  const read = valueAs({ kind: 'text', value: text, span }, type);
  if ('problem' in read) {
    return read.problem.code === 'unknown-enum-value' ? read : invalid(type, example);
  }
  // A moment is no date.
  return read.type.kind === type.kind ? { text: read.value } : invalid(type, example);
}

/** A list as PostgreSQL writes it: {"a",NULL}. Items of a list of JSON are values, lists as well. */
function listOf(items: readonly Value[], element: ColumnType, raw: string | undefined): ReadValue {
  const texts: string[] = [];
  const rawItems = raw === undefined ? [] : itemsIn(raw);
  for (const [index, item] of items.entries()) {
    const nested = Array.isArray(item) && element.kind !== 'json';
    const digits = rawItems[index];
    const read = nested ? listOf(item, element, digits) : writtenValue(item, element, digits);
    if ('problem' in read) return read;
    texts.push(nested && read.text !== null ? read.text : arrayItem(read.text));
  }
  return { text: `{${texts.join(',')}}` };
}

/** The JSON texts of a list's items. */
function itemsIn(raw: string): readonly string[] {
  const node = readJson(raw, mostLevels);
  return node.kind === 'array'
    ? node.items.map(({ span: { start, end } }) => raw.slice(start, end))
    : [];
}

/** Levels of nesting of one value. */
const mostLevels = 310;

function invalid(type: ColumnType, notation: string): ReadValue {
  return { problem: problem('invalid-value', { type: typeName(type), notation }) };
}

function misfit(value: Value, type: ColumnType): ReadValue {
  const found = Array.isArray(value)
    ? 'a list'
    : typeof value === 'object'
      ? 'an object'
      : `a ${typeof value === 'string' ? 'text' : typeof value}`;
  return { problem: problem('type-mismatch', { expected: `a ${typeName(type)}`, found }) };
}
