import {
  compare,
  missing,
  number,
  property,
  type Expression,
  type PathValue,
} from '../expression/index.ts';
import { calculate, decimal, printDecimal } from '../decimal/index.ts';
import { isNumeric, type ColumnType } from '../schema/index.ts';
import type { CheckedLevel, CheckedScalar } from './checked.ts';
import { literalFor } from './grouping.ts';
import { valueAs, type Literal } from './value.ts';

/**
 * The conditions that a row meets when it is one of a line's: `value` is the line's, as an answer
 * has it, and `expression` what the level groups by. Bins and years become bounds, which an index
 * answers. Undefined for values that the filter language cannot spell, such as NaN.
 */
export function lineConditions(
  expression: Expression,
  { type, scalar }: CheckedLevel,
  value: PathValue,
): readonly Expression[] | undefined {
  if (value.kind === 'null') return [missing(expression)];
  const literal = literalOf(value, type);
  if (literal === undefined) return undefined;
  return boundsOf(scalar, literal) ?? [compare(expression, '=', literal)];
}

function literalOf(
  value: Exclude<PathValue, { kind: 'null' }>,
  type: ColumnType,
): Literal | undefined {
  const span = { start: 0, end: 0 };
  const literal: Literal =
    value.kind === 'string'
      ? literalFor(value.value, type, span)
      : value.kind === 'number'
        ? { kind: 'number', value: value.value, span }
        : { kind: 'boolean', value: value.value, span };
  return 'value' in valueAs(literal, type) ? literal : undefined;
}

/** From and up to, where a level is of a plain column and its clock is that of UTC. */
function boundsOf(scalar: CheckedScalar, literal: Literal): readonly Expression[] | undefined {
  if (scalar.kind !== 'function') return undefined;
  const [of, width, zone] = scalar.args;
  if (of?.kind !== 'column') return undefined;
  const self = property(of.column.name);
  const between = (from: Expression, to: Expression): readonly Expression[] => [
    compare(self, '>=', from),
    compare(self, '<', to),
  ];
  if (scalar.name === 'year' && width === undefined && literal.kind === 'number') {
    const year = Number(literal.value);
    return year > 0 && year < 9999 ? between(date(year, 0, 1), date(year + 1, 0, 1)) : undefined;
  }
  if (scalar.name !== 'bin' || width?.kind !== 'value' || zone !== undefined) return undefined;
  if (isNumeric(of.type)) {
    // A float is binned as a decimal, which may lie on the other side of a bound.
    if (of.type.kind === 'float') return undefined;
    const end = calculate('+', decimal(String(literal.value)), decimal(width.value));
    return end === null ? undefined : between(literal, number(printDecimal(end)));
  }
  if (literal.kind !== 'date') return undefined;
  const [year = 0, month = 1, day = 1] = literal.value.split('-').map(Number);
  const end = ends[width.value]?.(year, month - 1, day);
  return end === undefined || year > 9998 ? undefined : between(literal, end);
}

type End = (year: number, month: number, day: number) => Expression;

const ends: Readonly<Record<string, End>> = {
  P1Y: (year) => date(year + 1, 0, 1),
  P3M: (year, month) => date(year, month + 3, 1),
  P1M: (year, month) => date(year, month + 1, 1),
  P1W: (year, month, day) => date(year, month, day + 7),
  P1D: (year, month, day) => date(year, month, day + 1),
};

function date(year: number, month: number, day: number): Expression {
  const at = new Date(0);
  at.setUTCFullYear(year, month, day);
  return { kind: 'date', value: at.toISOString().slice(0, 10), span: { start: 0, end: 0 } };
}
