import type { Expression } from '../expression/index.ts';
import { isNumeric, typeName, type ColumnType } from '../schema/index.ts';
import type { CheckedScalar } from './checked.ts';
import { numeric } from './fit.ts';
import { isZoned } from './time-zone.ts';
import { valueAs } from './value.ts';

/** The widths of bins of time, as ISO 8601 durations. */
const timeWidths = ['P1Y', 'P3M', 'P1M', 'P1W', 'P1D', 'PT1H'] as const;

type Read =
  | { readonly width: CheckedScalar; readonly type: ColumnType }
  /** What is wrong with the width, or else with the value. */
  | { readonly expected: string; readonly found?: string };

/**
 * The width of bins of a type's values, and the type of what stands for a bin: its beginning. Of
 * days and longer that is a date, of hours a timestamp, as the clock shows it where a zone is named.
 */
export function checkWidth(type: ColumnType, width: Expression, inZone: boolean): Read {
  if (isNumeric(type)) {
    const read = width.kind === 'number' ? valueAs(width, numeric) : undefined;
    if (width.kind !== 'number' || read === undefined || !('value' in read) || !isAbove(width)) {
      return { expected: 'a number above zero' };
    }
    return { width: { kind: 'value', value: read.value, type: numeric }, type: numeric };
  }
  if (type.kind !== 'date' && type.kind !== 'timestamp') {
    return { expected: 'a number, a date or a timestamp', found: `a ${typeName(type)}` };
  }
  const known = timeWidths.find((one) => width.kind === 'text' && width.value === one);
  if (known === undefined || (known === 'PT1H' && type.kind === 'date')) {
    const all = type.kind === 'date' ? timeWidths.slice(0, -1) : timeWidths;
    return { expected: `one of ${all.map((one) => `'${one}'`).join(', ')}` };
  }
  return {
    width: { kind: 'value', value: known, type: { kind: 'interval' } },
    type:
      known === 'PT1H' ? { kind: 'timestamp', zone: isZoned(type) && !inZone } : { kind: 'date' },
  };
}

function isAbove({ value }: { readonly value: string }): boolean {
  return !value.startsWith('-') && /[1-9]/.test(value.split(/e/i)[0] ?? '');
}
