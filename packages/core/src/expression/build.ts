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

/** Columns by name, and what their values are compared with. */
export type Literals = Readonly<Record<string, Literal>>;

/**
 * Conditions on columns, for programs: `where<'toll' | 'status'>().above('toll', 100)`. The type
 * parameter holds the columns there are and what they are compared with.
 */
export interface ConditionBuilder<Columns extends object = Literals> {
  /** The column has this value; for null: it has none. */
  equals<Name extends ColumnOf<Columns>>(column: Name, value: Of<Columns, Name> | null): Expression;
  /** The column has another value than this; for null: it has one. Nulls differ from nothing. */
  differs<Name extends ColumnOf<Columns>>(
    column: Name,
    value: Of<Columns, Name> | null,
  ): Expression;
  /** Greater, later, or further behind in the column's own order. */
  above<Name extends ColumnOf<Columns>>(column: Name, value: Of<Columns, Name>): Expression;
  /** The same, the value itself included. */
  atLeast<Name extends ColumnOf<Columns>>(column: Name, value: Of<Columns, Name>): Expression;
  /** Less, earlier, or further in front in the column's own order. */
  below<Name extends ColumnOf<Columns>>(column: Name, value: Of<Columns, Name>): Expression;
  /** The same, the value itself included. */
  atMost<Name extends ColumnOf<Columns>>(column: Name, value: Of<Columns, Name>): Expression;
  /** Both ends included. */
  between<Name extends ColumnOf<Columns>>(
    column: Name,
    low: Of<Columns, Name>,
    high: Of<Columns, Name>,
  ): Expression;
  /** The column has one of these values; null among them: or none. Of no values none is one. */
  oneOf<Name extends ColumnOf<Columns>>(
    column: Name,
    values: readonly (Of<Columns, Name> | null)[],
  ): Expression;
  /** Letter case ignored, no wildcards. */
  contains(column: ColumnOf<Columns>, value: string): Expression;
  /** The column has no value: it is null. */
  missing(column: ColumnOf<Columns>): Expression;
  /** A call of a function of the filter language, as a value or a condition. */
  call(name: string, ...args: readonly Literal[]): Expression;
  /** A column as a value, such as an argument of a call. */
  column(column: ColumnOf<Columns>): Expression;
  /** All of them; at least one must be given. */
  all(first: Expression, ...others: readonly Expression[]): Expression;
  /** At least one of them. */
  any(first: Expression, ...others: readonly Expression[]): Expression;
  /** Where the condition is unknown, so is its opposite. */
  not(condition: Expression): Expression;
}

type ColumnOf<Columns> = keyof Columns & string;
/** What a column is compared with: values of its own, or any expression. */
type Of<Columns, Name extends ColumnOf<Columns>> = Columns[Name] | Expression;

/** A date literal, such as `date('2024-02-29')`: a day, or its midnight. */
export function date(value: string): Expression {
  return { kind: 'date', value, span };
}

const span = { start: 0, end: 0 };

/** Makes conditions for the columns named by the type parameter; any name is taken without it. */
export function where<Column extends string = string>(): ConditionBuilder<Record<Column, Literal>> {
  const compared =
    (comparator: Comparator) =>
    (column: string, value: Literal): Expression =>
      compare(property(column), comparator, literal(value));
  const call = (name: string, ...args: readonly Literal[]): Expression => ({
    kind: 'call',
    name: name.toLowerCase(),
    args: args.map(literal),
    span,
  });
  return {
    equals: (column, value) => (value === null ? isMissing(column) : compared('=')(column, value)),
    differs: (column, value) =>
      value === null ? not(isMissing(column)) : compared('<>')(column, value),
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
    oneOf: (column, values) => {
      const members = values.filter((value) => value !== null).map(literal);
      const among: Expression = { kind: 'in', operand: property(column), members, span };
      const none = values.includes(null) ? [isMissing(column)] : [];
      const [first, second] = members.length === 0 ? none : [among, ...none];
      if (first === undefined) return { kind: 'boolean', value: false, span };
      return second === undefined ? first : { kind: 'or', operands: [first, second], span };
    },
    contains: (column, value) =>
      call('contains', call('casei', property(column)), call('casei', value)),
    missing: isMissing,
    call,
    column: property,
    all: (first, ...others) => and([first, ...others]) ?? first,
    any: (first, ...others) =>
      others.length === 0 ? first : { kind: 'or', operands: [first, ...others], span },
    not,
  };
}

function isMissing(column: string): Expression {
  return { kind: 'isNull', operand: property(column), span };
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
