import type { ColumnType } from '../schema/index.ts';

const notations: Readonly<Partial<Record<ColumnType['kind'], RegExp>>> = {
  integer: /^-?\d{1,19}$/,
  numeric: /^(?:-?\d+(?:\.\d+)?|NaN|-?Infinity)$/,
  float: /^(?:-?\d+(?:\.\d+)?(?:e[+-]?\d+)?|NaN|-?Infinity)$/,
  boolean: /^[tf]$/,
  date: /^(?:\d{4,}-\d\d-\d\d(?: BC)?|-?infinity)$/,
  timestamp:
    /^(?:\d{4,}-\d\d-\d\d \d\d:\d\d:\d\d(?:\.\d+)?(?:[+-]\d\d(?::\d\d)*)?(?: BC)?|-?infinity)$/,
  interval:
    /^-?P(?=.)(?:-?\d+Y)?(?:-?\d+M)?(?:-?\d+D)?(?:T(?=.)(?:-?\d+H)?(?:-?\d+M)?(?:-?\d+(?:\.\d+)?S)?)?$/,
  uuid: /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/,
};

/** Whether PostgreSQL's values of a type can be distinguished by their form. */
export function hasNotation(type: ColumnType): boolean {
  return notations[type.kind] !== undefined;
}

/** Whether PostgreSQL may have written this as a value of a type that has a notation of its own. */
export function isWrittenAs(value: string, type: ColumnType): boolean {
  return notations[type.kind]?.test(value) ?? false;
}
