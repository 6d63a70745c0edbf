import {
  and,
  compare,
  not,
  property,
  text,
  type Comparator,
  type Expression,
} from './expression.ts';

/** A literal as a program has it. A `Date` is a moment; numbers that floats cannot hold are texts of `number`. */
export type Literal = string | number | bigint | boolean | Date | Expression;

/**
 * Conditions on columns, for programs: `where<'toll' | 'status'>().above('toll', 100)`. The type
 * parameter names the columns there are; without it any name is taken.
 */
export interface ConditionBuilder<Column extends string> {
  equals(column: Column, value: Literal): Expression;
  differs(column: Column, value: Literal): Expression;
  above(column: Column, value: Literal): Expression;
  atLeast(column: Column, value: Literal): Expression;
  below(column: Column, value: Literal): Expression;
  atMost(column: Column, value: Literal): Expression;
  /** Both ends included. */
  between(column: Column, low: Literal, high: Literal): Expression;
  oneOf(column: Column, values: readonly Literal[]): Expression;
  /** Letter case ignored, no wildcards. */
  contains(column: Column, value: string): Expression;
  missing(column: Column): Expression;
  /** A call of a function of the filter language, as a value or a condition. */
  call(name: string, ...args: readonly Literal[]): Expression;
  /** A column as a value, such as an argument of a call. */
  column(column: Column): Expression;
  /** All of them; at least one must be given. */
  all(first: Expression, ...others: readonly Expression[]): Expression;
  any(first: Expression, ...others: readonly Expression[]): Expression;
  not(condition: Expression): Expression;
}

const span = { start: 0, end: 0 };

/** Makes conditions for the columns named by the type parameter. */
export function where<Column extends string = string>(): ConditionBuilder<Column> {
  const compared =
    (comparator: Comparator) =>
    (column: Column, value: Literal): Expression =>
      compare(property(column), comparator, literal(value));
  const call = (name: string, ...args: readonly Literal[]): Expression => ({
    kind: 'call',
    name: name.toLowerCase(),
    args: args.map(literal),
    span,
  });
  return {
    equals: compared('='),
    differs: compared('<>'),
    above: compared('>'),
    atLeast: compared('>='),
    below: compared('<'),
    atMost: compared('<='),
    between: (column, low, high) => ({
      kind: 'between',
      operand: property(column),
      low: literal(low),
      high: literal(high),
      span,
    }),
    // No value is one of none.
    oneOf: (column, values) =>
      values.length === 0
        ? { kind: 'boolean', value: false, span }
        : { kind: 'in', operand: property(column), members: values.map(literal), span },
    contains: (column, value) =>
      call('contains', call('casei', property(column)), call('casei', value)),
    missing: (column) => ({ kind: 'isNull', operand: property(column), span }),
    call,
    column: property,
    all: (first, ...others) => and([first, ...others]) ?? first,
    any: (first, ...others) =>
      others.length === 0 ? first : { kind: 'or', operands: [first, ...others], span },
    not,
  };
}

function literal(value: Literal): Expression {
  if (typeof value === 'object') {
    return value instanceof Date ? { kind: 'timestamp', value: value.toISOString(), span } : value;
  }
  if (typeof value === 'string') return text(value);
  if (typeof value === 'boolean') return { kind: 'boolean', value, span };
  if (typeof value === 'number' && !Number.isFinite(value)) {
    throw new RangeError('a filter has no spelling for NaN and infinity');
  }
  return { kind: 'number', value: String(value), span };
}
