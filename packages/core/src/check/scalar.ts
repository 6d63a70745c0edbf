import type { Expression } from '../expression/index.ts';
import { nearest, type Problem } from '../problem/index.ts';
import {
  hasEquality,
  isComparable,
  isNumeric,
  isTextual,
  typeName,
  type ColumnType,
} from '../schema/index.ts';
import { checkWidth } from './bin.ts';
import type { CheckedExpression, CheckedScalar } from './checked.ts';
import { float, numeric, parameterNames, sameElements, widest } from './fit.ts';
import {
  functions,
  resolvedFunctions,
  signatureOf,
  type FunctionName,
  type Parameter,
} from './functions.ts';
import type { Lookup } from './lookup.ts';
import { before } from './moment.ts';
import { Reporter, type Call } from './reporter.ts';
import { relationNamed, temporalRelations } from './temporal.ts';
import { isTimeZone, isZoned } from './time-zone.ts';
import { literalType, type Literal } from './value.ts';

/** A value whose type is known; or a literal, which takes the type of what it is compared with. */
export type Side =
  | { readonly kind: 'typed'; readonly scalar: CheckedScalar }
  | { readonly kind: 'literal'; readonly literal: Literal };

const timestamp: ColumnType = { kind: 'timestamp', zone: true };
const text: ColumnType = { kind: 'text' };
const whole: ColumnType = { kind: 'integer', bits: 64 };

const knownFunctions = [
  ...Object.keys(functions),
  ...Object.keys(resolvedFunctions),
  ...Object.keys(temporalRelations),
];

/** Rows that refer to the one that is looked at, and what they must meet. */
export type Referring = Pick<
  Extract<CheckedExpression, { kind: 'has' }>,
  'relationship' | 'condition'
>;

/** Checks the values in a condition: columns, literals, what is computed of them. */
export abstract class ScalarChecker extends Reporter {
  protected readonly lookup: Lookup;
  protected readonly now: Date;

  constructor(lookup: Lookup, now: Date, problems: Problem[]) {
    super(problems);
    this.lookup = lookup;
    this.now = now;
  }

  /** A condition, where one stands inside of a value. */
  abstract condition(expression: Expression): CheckedExpression | undefined;

  /** The rows that COUNT counts. */
  protected abstract referring(call: Call): Referring | undefined;

  /** The same for looking ahead: what is wrong is reported by anyone who reads it in earnest. */
  protected abstract silent(): ScalarChecker;

  /** A value, also a literal alone. */
  scalar(expression: Expression): CheckedScalar | undefined {
    const side = this.side(expression);
    return side?.kind === 'literal' ? this.settle(side.literal) : side?.scalar;
  }

  protected side(expression: Expression): Side | undefined {
    switch (expression.kind) {
      case 'property':
        return this.column(expression);
      case 'text':
      case 'number':
      case 'boolean':
      case 'date':
      case 'timestamp':
        return { kind: 'literal', literal: expression };
      case 'arithmetic':
        return this.arithmetic(expression);
      case 'call':
        return this.call(expression);
      case 'interval':
      case 'unbounded':
      case 'array': {
        const expected = 'a single value';
        const found = expression.kind === 'array' ? 'a list' : 'a stretch of time';
        this.report('type-mismatch', { expected, found }, expression);
        return undefined;
      }
      case 'and':
      case 'or':
      case 'not':
      case 'comparison':
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        this.condition(expression);
        this.report('not-a-value', {}, expression);
        return undefined;
      default:
        throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
    }
  }

  protected column(expression: Extract<Expression, { kind: 'property' }>): Side | undefined {
    const column = this.lookup.column(expression, this.problems);
    if (column === undefined) return undefined;
    const { name, type, filterable } = column;
    if (filterable) {
      return { kind: 'typed', scalar: { kind: 'column', column, type: computedType(type) } };
    }
    this.report('not-filterable', { name, type: typeName(type) }, expression);
    return undefined;
  }

  protected arithmetic(expression: Extract<Expression, { kind: 'arithmetic' }>): Side | undefined {
    const left = this.argument(expression.left, 'number');
    const right = this.argument(expression.right, 'number');
    if (left === undefined || right === undefined) return undefined;
    const { operator } = expression;
    const exact = operator === '%' || operator === 'div';
    const inFloats =
      operator === '^' || (!exact && [left, right].some((one) => one.type.kind === 'float'));
    const type = inFloats ? float : numeric;
    return { kind: 'typed', scalar: { kind: 'arithmetic', operator, left, right, type } };
  }

  protected call(call: Call): Side | undefined {
    const { name, args } = call;
    if (name === 'today' || name === 'now') {
      if (args.length > 0) return this.wrongCount(call, 0);
      return moment(this.now, name === 'today');
    }
    if (name === 'ago') return this.ago(call);
    if (name === 'bin') return this.bin(call);
    if (name === 'count') {
      const found = this.referring(call);
      return found && { kind: 'typed', scalar: { kind: 'count', ...found, type: whole } };
    }
    if (name === 'has' || relationNamed(name) !== undefined) {
      this.condition(call);
      this.report('not-a-value', {}, call);
      return undefined;
    }
    const signature = signatureOf(name);
    if (signature === undefined) {
      const upper = (names: readonly string[]): string => names.join(', ').toUpperCase();
      const near = nearest(name, knownFunctions)?.toUpperCase();
      this.report('unknown-function', { name, near, known: upper(knownFunctions) }, call);
      return undefined;
    }
    const { parameters, optional = 0, result, ofLetters } = signature;
    if (ofLetters === true && !this.lookup.unicode) {
      this.report('needs-unicode', { name: name.toUpperCase() }, call);
      return undefined;
    }
    if (args.length > parameters.length || args.length < parameters.length - optional) {
      return this.wrongCount(call, parameters.length);
    }
    const checked =
      parameters[0] === 'list'
        ? this.lists(args)
        : args.map((one, index) => this.argument(one, parameters[index] ?? 'text'));
    const sound = checked.filter((one) => one !== undefined);
    const [first] = sound;
    if (first === undefined || sound.length < args.length) return undefined;
    const zone = args[parameters.indexOf('zone')];
    if (zone !== undefined && !isZoned(first.type)) {
      this.mismatch('a timestamp with a time zone', first.type, args[0] ?? zone);
      return undefined;
    }
    const type = result === 'as first' ? widest(first.type) : result;
    // Looked up by `signatureOf` above.
    const known = name as FunctionName;
    return { kind: 'typed', scalar: { kind: 'function', name: known, args: sound, type } };
  }

  // AGO('P7D')
  protected ago(call: Call): Side | undefined {
    const [only] = call.args;
    if (only === undefined || call.args.length !== 1) return this.wrongCount(call, 1);
    const found = only.kind === 'text' ? before(this.now, only.value) : undefined;
    if (found !== undefined) return moment(found, false);
    this.report('invalid-value', { type: 'duration', notation: "'P7D' or 'PT12H'" }, only);
    return undefined;
  }

  // BIN(number, width) or BIN(time, 'P1M' [, zone])
  protected bin(call: Call): Side | undefined {
    const [value, width, zone] = call.args;
    if (value === undefined || width === undefined || call.args.length > 3) {
      return this.wrongCount(call, 2);
    }
    const operand = this.scalar(value);
    const inZone = zone && this.argument(zone, 'zone');
    if (operand === undefined || (zone !== undefined && inZone === undefined)) return undefined;
    if (zone !== undefined && !isZoned(operand.type)) {
      this.mismatch('a timestamp with a time zone', operand.type, value);
      return undefined;
    }
    const read = checkWidth(operand.type, width, inZone !== undefined);
    if ('expected' in read) {
      const { expected, found } = read;
      if (found === undefined) this.report('invalid-bin', { expected }, width);
      else this.report('type-mismatch', { expected, found }, value);
      return undefined;
    }
    const args = [operand, read.width, ...(inZone === undefined ? [] : [inZone])];
    return { kind: 'typed', scalar: { kind: 'function', name: 'bin', args, type: read.type } };
  }

  /** Both arguments of a list function, on one type of members. */
  protected lists(args: readonly Expression[]): (CheckedScalar | undefined)[] {
    const columns = args.map((one) => (one.kind === 'array' ? undefined : this.scalar(one)));
    const leader = columns.find((one) => one !== undefined);
    const list = leader === undefined ? this.typeOfMembers(args) : leader.type;
    const element = list?.kind === 'array' ? list.element : undefined;
    return args.map((one, index) => {
      const scalar = columns[index];
      if (element !== undefined && !hasEquality(element)) {
        // PostgreSQL has no operator that compares them.
        const name = scalar?.kind === 'column' ? scalar.column.name : 'here';
        if (one.kind !== 'array') {
          this.report('not-comparable', { name, type: typeName(list ?? element) }, one);
        }
        return undefined;
      }
      if (one.kind !== 'array') {
        if (
          scalar === undefined ||
          (scalar.type.kind === 'array' && sameElements(scalar.type, element))
        ) {
          return scalar;
        }
        this.mismatch('a list', scalar.type, one);
        return undefined;
      }
      if (list === undefined || element === undefined || !isComparable(element)) {
        if (leader === undefined || element !== undefined) {
          this.report('type-mismatch', { expected: 'a list column', found: 'a list' }, one);
        }
        return undefined;
      }
      return this.listLiteral(one.members, list, element);
    });
  }

  /** The type of lists that are all written down: that of their first member. */
  protected typeOfMembers(lists: readonly Expression[]): ColumnType | undefined {
    const members = lists.flatMap((one) => (one.kind === 'array' ? one.members : []));
    const [first] = members;
    if (first === undefined) return { kind: 'array', element: text };
    const silent = this.silent();
    const known = members.map((member) => silent.side(member));
    const typed = known.find((side) => side?.kind === 'typed');
    if (typed?.kind === 'typed') return { kind: 'array', element: typed.scalar.type };
    const [literal] = known;
    return literal?.kind === 'literal'
      ? { kind: 'array', element: literalType(literal.literal) }
      : undefined;
  }

  protected listLiteral(
    members: readonly Expression[],
    list: ColumnType,
    element: ColumnType,
  ): CheckedScalar | undefined {
    const values = members.map((member) => {
      const side = this.side(member);
      if (side?.kind === 'literal') return this.settle(side.literal, element);
      return side && this.alike(side.scalar, element, member);
    });
    const sound = values.filter((one) => one !== undefined);
    if (sound.length < members.length) return undefined;
    const own = sound.every(({ type }) => type.kind === element.kind);
    // A fraction among whole numbers makes all of them decimals.
    const type: ColumnType = own ? list : { kind: 'array', element: numeric };
    return { kind: 'list', members: sound, type };
  }

  protected argument(expression: Expression, parameter: Parameter): CheckedScalar | undefined {
    const side = this.side(expression);
    if (side === undefined) return undefined;
    if (side.kind === 'literal') return this.literalArgument(side.literal, parameter);
    const { type } = side.scalar;
    const fits = {
      text: isTextual(type),
      number: isNumeric(type),
      time: type.kind === 'date' || type.kind === 'timestamp',
      list: type.kind === 'array',
      digits: false,
      zone: false,
    }[parameter];
    if (fits) return side.scalar;
    this.mismatch(parameterNames[parameter], type, expression);
    return undefined;
  }

  protected literalArgument(literal: Literal, parameter: Parameter): CheckedScalar | undefined {
    switch (parameter) {
      case 'text':
        return this.settle(literal, text);
      case 'number':
        return this.settle(literal, numeric);
      case 'time':
        return this.settle(literal, literal.kind === 'date' ? { kind: 'date' } : timestamp);
      case 'digits': {
        if (literal.kind === 'number' && /^\d$/.test(literal.value))
          return this.settle(literal, whole);
        this.report('invalid-value', { type: 'number of digits', notation: '0 to 9' }, literal);
        return undefined;
      }
      case 'zone':
        if (literal.kind === 'text' && isTimeZone(literal.value)) return this.settle(literal, text);
        this.report('unknown-time-zone', {}, literal);
        return undefined;
      case 'list':
        this.mismatch('a list', literalType(literal), literal);
        return undefined;
      default:
        throw new Error(`unknown parameter ${JSON.stringify(parameter satisfies never)}`);
    }
  }
}

/** The type that a column's values have in conditions. */
function computedType(type: ColumnType): ColumnType {
  // An object identifier is a number there.
  return type.kind === 'integer' && type.databaseType !== undefined ? whole : type;
}

function moment(at: Date, dayOnly: boolean): Side {
  const value = at.toISOString();
  const scalar: CheckedScalar = dayOnly
    ? { kind: 'value', value: value.slice(0, 10), type: { kind: 'date' } }
    : { kind: 'value', value, type: timestamp };
  return { kind: 'typed', scalar };
}
