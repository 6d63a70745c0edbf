import { isNumeric, type ColumnType } from '../schema/index.ts';
import type { CheckedScalar } from './checked.ts';
import type { Parameter } from './functions.ts';

export const numeric: ColumnType = { kind: 'numeric' };
export const float: ColumnType = { kind: 'float', bits: 64 };

/** What an argument must be, in words. */
export const parameterNames: Readonly<Record<Parameter, string>> = {
  text: 'a text',
  number: 'a number',
  time: 'a date or timestamp',
  list: 'a list',
  digits: 'a literal number of digits',
  zone: 'a time zone in quotes',
};

/** The text of a literal, or of one that CASEI or ACCENTI stand around. */
export function literalOf(scalar: CheckedScalar): string | undefined {
  if (scalar.kind === 'value') return scalar.value;
  const [inner] = scalar.kind === 'function' ? scalar.args : [];
  const folds =
    scalar.kind === 'function' && (scalar.name === 'casei' || scalar.name === 'accenti');
  return folds && inner !== undefined ? literalOf(inner) : undefined;
}

/** Whether two values may be compared with each other. */
export function areAlike(one: ColumnType, other: ColumnType): boolean {
  if (isNumeric(one)) return isNumeric(other);
  if (one.kind === 'enum') {
    return (
      other.kind === 'enum' && one.name === other.name && one.databaseType === other.databaseType
    );
  }
  const times = ['date', 'timestamp'];
  if (times.includes(one.kind)) return times.includes(other.kind);
  return one.kind === other.kind;
}

export function sameElements(type: ColumnType, element: ColumnType | undefined): boolean {
  return type.kind === 'array' && element !== undefined && areAlike(type.element, element);
}

/** A whole number's own type may be too narrow for what is made of it. */
export function widest(type: ColumnType): ColumnType {
  return type.kind === 'float' ? float : numeric;
}
