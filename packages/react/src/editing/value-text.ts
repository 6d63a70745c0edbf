import type { Value } from '@ephoros/client';
import { JsonText, printAnswer } from '@ephoros/core/answer';
import { momentAt, wallAt } from '@ephoros/core/moment';
import { plainText } from '../format/value.ts';
import { isNumeric, type ColumnDescription, type ColumnType } from '@ephoros/core/schema';

/** How a value of a column is typed. */
export type EditorKind =
  'line' | 'number' | 'text' | 'choice' | 'date' | 'moment' | 'duration' | 'list' | 'json';

export function editorKind({ type }: Pick<ColumnDescription, 'type'>): EditorKind {
  switch (type.kind) {
    case 'integer':
    case 'numeric':
    case 'float':
      return 'number';
    case 'text':
      return type.maxLength === undefined ? 'text' : 'line';
    case 'boolean':
    case 'enum':
      return 'choice';
    case 'date':
      return 'date';
    case 'timestamp':
      return 'moment';
    case 'interval':
      return 'duration';
    case 'array':
      return isPlain(type.element) ? 'list' : 'json';
    case 'json':
      return 'json';
    case 'time':
    case 'uuid':
    case 'binary':
    case 'range':
    case 'opaque':
      return 'line';
    default:
      throw new Error(`no editor for ${JSON.stringify(type satisfies never)}`);
  }
}

function isPlain(element: ColumnType): boolean {
  return element.kind === 'text' || element.kind === 'enum' || isNumeric(element);
}

/** A value as it is typed; moments as the clocks of a zone show them. */
export function textToEdit(value: Value, column: ColumnDescription, zone: string): string {
  if (value === null) return '';
  const { type } = column;
  switch (editorKind(column)) {
    case 'json':
      return printAnswer(value);
    case 'list':
      // Lists of lists have brackets.
      if (Array.isArray(value) && value.some(Array.isArray)) return printAnswer(value);
      return Array.isArray(value) ? value.map(itemText).join(', ') : plainText(value);
    case 'moment': {
      const zoned = type.kind === 'timestamp' && type.zone;
      return (zoned ? wallAt(plainText(value), zone) : undefined) ?? plainText(value);
    }
    case 'duration':
      return shortDuration(plainText(value));
    case 'line':
    case 'number':
    case 'text':
    case 'choice':
    case 'date':
      return plainText(value);
    default:
      throw new Error('no such editor');
  }
}

function itemText(item: Value): string {
  const text = item === null ? '' : plainText(item);
  return /[",]|^\s|\s$|^$/.test(text) && item !== null ? JSON.stringify(text) : text;
}

/**
 * What was typed, as a value of the column: nothing is null. What is no such value stays the text
 * that it is, for the check to tell what is wrong with it.
 */
export function valueTyped(text: string, column: ColumnDescription, zone: string): Value {
  const { type } = column;
  const plain = text.trim();
  if (plain === '') return null;
  switch (editorKind(column)) {
    case 'number':
      return numberTyped(plain, column);
    case 'choice': {
      if (type.kind !== 'boolean') return named(plain, column);
      return { true: true, false: false }[plain.toLowerCase()] ?? plain;
    }
    case 'moment':
      return momentTyped(plain, column, zone);
    case 'duration':
      return durationTyped(plain);
    case 'json':
      return type.kind === 'array' ? jsonListTyped(plain) : jsonTyped(plain);
    case 'list':
      return listTyped(plain, type);
    case 'text':
    case 'line':
      return text;
    case 'date':
      return plain;
    default:
      throw new Error('no such editor');
  }
}

/** A value by what it is called. */
function named(text: string, { valueLabels = {} }: ColumnDescription): string {
  return Object.entries(valueLabels).find(([, label]) => label === text)?.[0] ?? text;
}

/** Digits of any script; blanks and signs of a currency are no part of a number. */
function numberTyped(text: string, { type, format, encoding }: ColumnDescription): Value {
  const digits = text
    .replace(/[٠-٩]/g, (digit) => String(digit.charCodeAt(0) - 0x0660))
    .replace('٫', '.')
    .replace(/[\s\u00a0\u202f٬]/g, '');
  const unit =
    format?.kind === 'money'
      ? format.currency
      : format?.kind === 'number'
        ? (format.unit ?? '')
        : '';
  const bare = unit === '' ? digits : digits.replace(unit, '');
  // Commas between groups of three set digits apart; a single other one is a point.
  const pointed = /^[+-]?\d{1,3}(?:,\d{3})+(?:\.\d+)?$/.test(bare)
    ? bare.replaceAll(',', '')
    : bare.replace(/^([+-]?\d*),(\d+)$/, '$1.$2');
  const number = Number(pointed);
  const isWhole = type.kind === 'integer' && Number.isSafeInteger(number);
  if (encoding !== 'number' || pointed === '' || Number.isNaN(number)) return pointed;
  return type.kind === 'float' || isWhole ? number : pointed;
}

function momentTyped(text: string, { type }: ColumnDescription, zone: string): Value {
  const written = text.replace(/^(\d{4}-\d\d-\d\d) (?=\d)/, '$1T');
  const wall = /^\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d(?:\.\d+)?)?$/.test(written)
    ? written.replace(/T(\d\d:\d\d)$/, 'T$1:00')
    : undefined;
  if (wall === undefined || type.kind !== 'timestamp') return written;
  return type.zone ? (momentAt(wall, zone) ?? written) : wall;
}

const units: Readonly<Record<string, string>> = { d: 'D', h: 'H', m: 'M', min: 'M', s: 'S' };

/** "1d 2h 30m" or an ISO 8601 duration, as the latter. */
function durationTyped(text: string): string {
  const parts = [...text.matchAll(/(\d+(?:\.\d+)?)\s*(d|h|min|m|s)\s*/gi)];
  if (parts.length === 0 || parts.map(([all]) => all).join('') !== text) return text;
  const texts = parts.map(
    ([, count = '', unit = '']) => `${count}${units[unit.toLowerCase()] ?? ''}`,
  );
  const days = texts.filter((part) => part.endsWith('D')).join('');
  const clock = texts.filter((part) => !part.endsWith('D')).join('');
  return `P${days}${clock === '' ? '' : `T${clock}`}`;
}

/** The same the other way, where it is as plain as that. */
function shortDuration(text: string): string {
  const [, days, hours, minutes, seconds] =
    /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?$/.exec(text) ?? [];
  const parts = [
    [days, 'd'],
    [hours, 'h'],
    [minutes, 'm'],
    [seconds, 's'],
  ].flatMap(([count, unit]) => (count === undefined ? [] : [`${count}${unit ?? ''}`]));
  return parts.length === 0 ? text : parts.join(' ');
}

/** JSON that is typed; where a number has more digits than JavaScript holds, its text as it is. */
function jsonTyped(text: string): Value {
  try {
    const value = JSON.parse(text) as Value;
    return losesDigits(text) ? JsonText.value(text) : value;
  } catch {
    return text;
  }
}

/** A list in JSON: numbers that JavaScript would round are texts, as answers have them. */
function jsonListTyped(text: string): Value {
  if (!losesDigits(text)) return jsonTyped(text);
  const quoted = text.replace(tokens, (token) =>
    !token.startsWith('"') && isRounded(token) ? `"${token}"` : token,
  );
  return jsonTyped(quoted);
}

/** Texts and numbers in JSON. */
const tokens = /"(?:[^"\\]|\\.)*"|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/g;

function losesDigits(text: string): boolean {
  return [...text.matchAll(tokens)].some(([token]) => !token.startsWith('"') && isRounded(token));
}

/** Whether JavaScript may hold fewer digits of a number than it has. */
function isRounded(number: string): boolean {
  const digits = number
    .replace(/[eE].*$/, '')
    .replace(/[-.]/g, '')
    .replace(/^0+|0+$/g, '');
  return digits.length > 15 || !Number.isFinite(Number(number));
}

/** "a, b, "c, d"": texts by commas, in double quotes where one is in them. */
function listTyped(text: string, type: ColumnType): Value {
  if (text.startsWith('[')) return jsonListTyped(text);
  const items = [...text.matchAll(/\s*("(?:[^"\\]|\\.)*"|[^,]*)\s*(?:,|$)/g)]
    .map(([, item = '']) => item.trim())
    .slice(0, -1);
  const numeric = type.kind === 'array' && isNumeric(type.element);
  return items.map((item) => {
    if (item.startsWith('"')) return jsonTyped(item);
    const isNumber = numeric && item !== '' && !Number.isNaN(Number(item));
    return isNumber && !isRounded(item) ? Number(item) : item;
  });
}
