import {
  and,
  compare,
  missing,
  number,
  property,
  type Expression,
  type PathValue,
} from '../expression/index.ts';
import { calculate, decimal, printDecimal } from '../decimal/index.ts';
import { isNumeric } from '../schema/index.ts';
import { termsOf, type Query, type Term } from '../query/index.ts';
import type { CheckedGrouping, CheckedLevel, CheckedScalar } from './checked.ts';
import { literalOf } from './path-value.ts';
import { valueAs, type Literal } from './value.ts';

/**
 * The conditions that a row meets when it is one of a line's: `value` is the line's, as an answer
 * has it, and `expression` what the level groups by. Bins and years give bounds, which an index
 * answers. Undefined for values that the filter language cannot spell, such as NaN.
 */
export function lineConditions(
  expression: Expression,
  { type, scalar }: CheckedLevel,
  value: PathValue,
): readonly Expression[] | undefined {
  if (value.kind === 'null') return [missing(expression)];
  const literal = literalOf(value, type);
  if (!('value' in valueAs(literal, type))) return undefined;
  const same = compare(expression, '=', literal);
  const bounds = boundsOf(scalar, literal);
  if (bounds === undefined) return [same];
  const { column, from, to, exact } = bounds;
  const within = [compare(column, '>=', from), compare(column, '<', to)];
  return exact ? within : [...within, same];
}

/**
 * What selects the rows of each line of a grouping's level among those of the whole level, by the
 * line's value; undefined for a value that has no spelling.
 */
export function lineFilter(
  { group = [] }: Query,
  { levels, path }: Pick<CheckedGrouping, 'levels' | 'path'>,
): (value: PathValue | undefined) => Expression | undefined {
  const depth = path.length;
  return (value) => {
    const own = value && conditionsAt(depth, value, group, levels);
    return own && and(own);
  };
}

/**
 * What all rows of a grouping's level meet: what the query asks of them, and the groups above.
 * Undefined where nothing is requested, and `unspoken` where a group's value has no spelling.
 */
export function levelFilter(
  { filter, path = [], group = [] }: Query,
  { levels }: Pick<CheckedGrouping, 'levels'>,
): Expression | undefined | 'unspoken' {
  const around = path.map((value, depth) => conditionsAt(depth, value, group, levels));
  const sound = around.filter((one) => one !== undefined);
  if (sound.length < around.length) return 'unspoken';
  return and([...termsOf(filter), ...sound.flat()]);
}

function conditionsAt(
  depth: number,
  value: PathValue,
  group: readonly Term[],
  levels: readonly CheckedLevel[],
): readonly Expression[] | undefined {
  const [level, term] = [levels[depth], group[depth]];
  return level && term && lineConditions(term.expression, level, value);
}

interface Bounds {
  readonly column: Expression;
  readonly from: Expression;
  /** Not included. */
  readonly to: Expression;
  /** Whether all that lies between belongs to the line. */
  readonly exact: boolean;
}

/** Between what the values of a line lie, where the level is of a plain column. */
function boundsOf(scalar: CheckedScalar, literal: Literal): Bounds | undefined {
  if (scalar.kind !== 'function') return undefined;
  const [of] = scalar.args;
  if (of?.kind !== 'column') return undefined;
  const column = property(of.column.name);
  if (scalar.name === 'year' && literal.kind === 'number') {
    const years = beginningAt(Number(literal.value), 0, 1, 'P1Y', scalar.args[1] === undefined);
    return years && { column, ...years };
  }
  const [, width, zone] = scalar.args;
  if (scalar.name !== 'bin' || width?.kind !== 'value') return undefined;
  if (isNumeric(of.type)) {
    // A float is binned as a decimal, which may lie on the other side of a bound.
    if (of.type.kind === 'float') return undefined;
    const end = calculate('+', decimal(String(literal.value)), decimal(width.value));
    return end === null
      ? undefined
      : { column, from: literal, to: number(printDecimal(end)), exact: true };
  }
  if (literal.kind !== 'date') return undefined;
  const [year = 0, month = 1, day = 1] = literal.value.split('-').map(Number);
  const days = beginningAt(year, month - 1, day, width.value, zone === undefined);
  return days && { column, ...days };
}

/** Clocks of all zones show the day of UTC, the one before or the one after. */
function beginningAt(
  year: number,
  month: number,
  day: number,
  width: string,
  utc: boolean,
): Omit<Bounds, 'column'> | undefined {
  const end = ends[width];
  if (end === undefined || year < 2 || year > 9997) return undefined;
  const slack = utc ? 0 : 1;
  return {
    from: date(year, month, day - slack),
    to: end(year, month, day, slack),
    exact: utc,
  };
}

type End = (year: number, month: number, day: number, slack: number) => Expression;

const ends: Readonly<Record<string, End>> = {
  P1Y: (year, _month, _day, slack) => date(year + 1, 0, 1 + slack),
  P3M: (year, month, _day, slack) => date(year, month + 3, 1 + slack),
  P1M: (year, month, _day, slack) => date(year, month + 1, 1 + slack),
  P1W: (year, month, day, slack) => date(year, month, day + 7 + slack),
  P1D: (year, month, day, slack) => date(year, month, day + 1 + slack),
};

function date(year: number, month: number, day: number): Expression {
  const at = new Date(0);
  at.setUTCFullYear(year, month, day);
  return { kind: 'date', value: at.toISOString().slice(0, 10), span: { start: 0, end: 0 } };
}
