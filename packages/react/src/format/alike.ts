import type { Value } from '@ephoros/client';
import { isNumeric, type ResultColumn } from '@ephoros/core/schema';
import { formatText, plainText, type Reader } from './value.ts';

/**
 * Values of a column that stand together, such as the edges of bins: all with as many digits after
 * the point as the one that needs most.
 */
export function formatAlike(
  values: readonly Value[],
  column: ResultColumn,
  reader: Reader,
): readonly string[] {
  const { type, format = { kind: 'number' } } = column;
  const free =
    (format.kind === 'number' || format.kind === 'money') && format.decimals === undefined;
  const plain = isNumeric(type) && free && values.every(isPlain);
  const decimals = Math.max(0, ...values.map(digitsNeeded));
  const written = plain ? { ...column, format: { ...format, decimals } } : column;
  return values.map((value) => formatText(value, written, reader));
}

/** Whether a number is written without an exponent, and is one at all. */
function isPlain(value: Value): boolean {
  return /^-?\d+(\.\d+)?$/.test(plainText(value));
}

/** Digits after the point, without zeros at the end. */
function digitsNeeded(value: Value): number {
  return /\.(\d*[1-9])0*$/.exec(plainText(value))?.[1]?.length ?? 0;
}
