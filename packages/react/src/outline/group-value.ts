import type { Value } from '@ephoros/client';
import { calculate, decimal, printDecimal } from '@ephoros/core/decimal';
import type { Expression } from '@ephoros/core/expression';
import type { ResultColumn } from '@ephoros/core/schema';
import { dateFormat } from '../format/formatters.ts';
import { formatAlike } from '../format/alike.ts';
import { formatValue, type FormattedValue } from '../format/value.ts';
import type { FullReader } from '../format/value.ts';

/** The value of a group as people read it: a month by its name, a bin by both its ends. */
export function groupValue(
  value: Value,
  level: ResultColumn,
  expression: Expression | undefined,
  reader: FullReader,
): FormattedValue {
  const plain = formatValue(value, level, reader);
  if (value === null || expression?.kind !== 'call') return plain;
  const [, width] = expression.args;
  const by = width?.kind === 'text' || width?.kind === 'number' ? width.value : '';
  if (expression.name === 'bin' && typeof value === 'string') {
    const text =
      level.type.kind === 'date' ? span(value, by, reader) : bounds(value, by, level, reader);
    return text === undefined ? plain : { text, kind: plain.kind, exact: value };
  }
  if (typeof value !== 'number') return plain;
  const text = partOfDate(expression.name, value, reader);
  return text === undefined ? plain : { text, kind: 'text', exact: String(value) };
}

function written(reader: FullReader, at: Date | number, options: object): string {
  return dateFormat(reader.locale, { ...options, timeZone: 'UTC' }).format(at);
}

/** Parts of a date that have names. 1 January 2024 was a Monday. */
function partOfDate(part: string, value: number, reader: FullReader): string | undefined {
  switch (part) {
    case 'month':
      return written(reader, Date.UTC(2024, value - 1), { month: 'long' });
    case 'weekday':
      return written(reader, Date.UTC(2024, 0, value), { weekday: 'long' });
    case 'quarter':
      return reader.messages.quarter(value, undefined);
    case 'week':
      return reader.messages.week(value);
    case 'hour':
      return `${String(value).padStart(2, '0')}:00`;
    default:
      return undefined;
  }
}

const dayFormat = { day: 'numeric', month: 'short', year: 'numeric' };

/** What begins at a date: "2024", "March 2024", … */
function span(value: string, width: string, reader: FullReader): string | undefined {
  const at = new Date(`${value}T00:00:00Z`);
  if (Number.isNaN(at.getTime())) return undefined;
  switch (width) {
    case 'P1Y':
      return String(at.getUTCFullYear());
    case 'P3M':
      return reader.messages.quarter(Math.floor(at.getUTCMonth() / 3) + 1, at.getUTCFullYear());
    case 'P1M':
      return written(reader, at, { month: 'long', year: 'numeric' });
    case 'P1W':
      return reader.messages.weekOf(written(reader, at, dayFormat));
    default:
      return written(reader, at, dayFormat);
  }
}

/** From and up to, not including, of a bin of numbers. */
function bounds(
  value: string,
  width: string,
  level: ResultColumn,
  reader: FullReader,
): string | undefined {
  const end = level.type.kind === 'numeric' ? sumOf(value, width) : undefined;
  if (end === undefined) return undefined;
  const [from = '', to = ''] = formatAlike([value, end], level, reader);
  return `${from} – ${to}`;
}

const decimalText = /^-?\d+(?:\.\d+)?$/;

/** The sum of two decimal texts; undefined where one is none. */
function sumOf(one: string, other: string): string | undefined {
  if (!decimalText.test(one) || !decimalText.test(other)) return undefined;
  const sum = calculate('+', decimal(one), decimal(other));
  return sum === null ? undefined : printDecimal(sum);
}
