import type { Expression } from '../expression/index.ts';
import {
  nearest,
  problem,
  type Problem,
  type ProblemCode,
  type ProblemFacts,
} from '../problem/index.ts';
import { isComparable, isNumeric, isTextual, typeName, type ColumnType } from '../schema/index.ts';
import { checkWidth } from './bin.ts';
import type { CheckedExpression, CheckedScalar } from './checked.ts';
import {
  areAlike,
  float,
  literalOf,
  numeric,
  parameterNames,
  sameElements,
  widest,
} from './fit.ts';
import {
  functions,
  resolvedFunctions,
  signatureOf,
  type FunctionName,
  type Parameter,
} from './functions.ts';
import type { Lookup } from './lookup.ts';
import { before } from './moment.ts';
import { relate, relationNamed, temporalRelations, type Stretch } from './temporal.ts';
import { isTimeZone, isZoned } from './time-zone.ts';
import { literalType, valueAs, type Literal } from './value.ts';

type Call = Extract<Expression, { kind: 'call' }>;

/** A value whose type is known; or a literal, which takes the type of what it is compared with. */
type Side =
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

/**
 * Checks one filter. Every mistake is pushed to `problems` with its place; a part that has one
 * comes back as undefined, and the rest is checked all the same.
 */
export class Checker {
  private readonly lookup: Lookup;
  private readonly now: Date;
  private readonly problems: Problem[];

  constructor(lookup: Lookup, now: Date, problems: Problem[]) {
    this.lookup = lookup;
    this.now = now;
    this.problems = problems;
  }

  condition(expression: Expression): CheckedExpression | undefined {
    switch (expression.kind) {
      case 'and':
      case 'or': {
        const operands = expression.operands.map((operand) => this.condition(operand));
        const sound = operands.filter((operand) => operand !== undefined);
        if (sound.length < operands.length) return undefined;
        return { kind: expression.kind, operands: sound };
      }
      case 'not': {
        const operand = this.condition(expression.operand);
        return operand && { kind: 'not', operand };
      }
      case 'comparison': {
        const [left, right] = this.comparable([expression.left, expression.right]) ?? [];
        const { comparator } = expression;
        return left && right && { kind: 'comparison', comparator, left, right };
      }
      case 'between': {
        const { operand, low, high } = expression;
        const [value, from, to] = this.comparable([operand, low, high]) ?? [];
        return value && from && to && { kind: 'between', operand: value, low: from, high: to };
      }
      case 'in': {
        const sides = this.comparable([expression.operand, ...expression.members]);
        const [operand, ...members] = sides ?? [];
        return operand && { kind: 'in', operand, members };
      }
      case 'like':
        return this.like(expression);
      case 'isNull': {
        const operand = this.nullable(expression.operand);
        return operand && { kind: 'isNull', operand };
      }
      case 'call': {
        const relation = relationNamed(expression.name);
        if (relation !== undefined) return this.temporal(relation, expression);
        return expression.name === 'has' ? this.has(expression) : this.truth(expression);
      }
      case 'property':
      case 'arithmetic':
      case 'interval':
      case 'unbounded':
      case 'array':
      case 'boolean':
      case 'text':
      case 'number':
      case 'date':
      case 'timestamp':
        return this.truth(expression);
      default:
        throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
    }
  }

  /** What IS NULL is asked of: a value, a list, or a condition that may be unknown. */
  private nullable(expression: Expression): CheckedScalar | undefined {
    if (!isCondition(expression)) return this.scalar(expression);
    const condition = this.condition(expression);
    return condition && { kind: 'condition', condition, type: { kind: 'boolean' } };
  }

  private truth(expression: Expression): CheckedExpression | undefined {
    const operand = this.scalar(expression);
    if (operand === undefined) return undefined;
    if (operand.type.kind === 'boolean') return { kind: 'truth', operand };
    this.report('not-a-condition', { found: `a ${typeName(operand.type)} alone` }, expression);
    return undefined;
  }

  private like(expression: Extract<Expression, { kind: 'like' }>): CheckedExpression | undefined {
    const operand = this.argument(expression.operand, 'text');
    const pattern = this.side(expression.pattern);
    if (operand === undefined || pattern === undefined) return undefined;
    const scalar = pattern.kind === 'typed' ? pattern.scalar : this.settle(pattern.literal);
    const literal = scalar && literalOf(scalar);
    if (scalar === undefined || literal === undefined || !isTextual(scalar.type)) {
      this.report('pattern-not-literal', {}, expression.pattern);
      return undefined;
    }
    if (/(?<!\\)(?:\\\\)*\\$/.test(literal)) {
      this.report('pattern-ends-in-escape', {}, expression.pattern);
      return undefined;
    }
    return { kind: 'like', operand, pattern: scalar };
  }

  // HAS(relationship [, condition])
  private has(call: Call): CheckedExpression | undefined {
    const found = this.referring(call);
    return found && { kind: 'has', ...found };
  }

  private referring(
    call: Call,
  ): Pick<Extract<CheckedExpression, { kind: 'has' }>, 'relationship' | 'condition'> | undefined {
    const { name, args } = call;
    const [named, condition] = args;
    if (named?.kind !== 'property' || args.length > 2) {
      if (named === undefined || args.length > 2) this.wrongCount(call, 2);
      else {
        const facts = { expected: 'the name of a referring table', found: 'something else' };
        this.report('type-mismatch', { ...facts, hint: resolvedFunctions[name] }, named);
      }
      return undefined;
    }
    const found = this.lookup.referring(named, this.problems);
    if (found === undefined) return undefined;
    const { relationship, inside } = found;
    if (condition === undefined) return { relationship };
    const checked = new Checker(inside, this.now, this.problems).condition(condition);
    return checked && { relationship, condition: checked };
  }

  private temporal(
    relation: Parameters<typeof relate>[0],
    call: Call,
  ): CheckedExpression | undefined {
    const [first, second] = call.args;
    if (first === undefined || second === undefined || call.args.length !== 2) {
      this.wrongCount(call, 2);
      return undefined;
    }
    const [a, b] = [this.stretch(first), this.stretch(second)];
    return a && b && relate(relation, a, b);
  }

  private stretch(expression: Expression): Stretch | undefined {
    if (expression.kind !== 'interval') {
      const instant = this.argument(expression, 'time');
      return instant && { start: instant, end: instant };
    }
    const end = (bound: Expression): CheckedScalar | 'open' | undefined =>
      bound.kind === 'unbounded' ? 'open' : this.argument(bound, 'time');
    const [from, to] = [end(expression.start), end(expression.end)];
    if (from === undefined || to === undefined) return undefined;
    return { start: from === 'open' ? undefined : from, end: to === 'open' ? undefined : to };
  }

  /** Settles expressions that are compared with each other on one type. */
  private comparable(expressions: readonly Expression[]): readonly CheckedScalar[] | undefined {
    const sides = expressions.map((expression) => this.side(expression));
    const leader = sides.find((side) => side?.kind === 'typed');
    const [head] = sides;
    // Only literals: the first one says the type.
    const type =
      leader?.kind === 'typed'
        ? leader.scalar.type
        : head?.kind === 'literal'
          ? literalType(head.literal)
          : undefined;
    const settled = sides.map((side, index) => {
      const expression = expressions[index];
      if (side === undefined || expression === undefined || type === undefined) return undefined;
      if (side.kind === 'typed') return this.alike(side.scalar, type, expression);
      // What cannot be compared at all has been told already.
      return leader !== undefined && !isComparable(type)
        ? undefined
        : this.settle(side.literal, type);
    });
    const sound = settled.filter((scalar) => scalar !== undefined);
    return sound.length === settled.length ? sound : undefined;
  }

  private alike(
    scalar: CheckedScalar,
    type: ColumnType,
    expression: Expression,
  ): CheckedScalar | undefined {
    if (!isComparable(scalar.type)) {
      const name = scalar.kind === 'column' ? scalar.column.name : 'here';
      this.report('not-comparable', { name, type: typeName(scalar.type) }, expression);
      return undefined;
    }
    if (areAlike(scalar.type, type)) return scalar;
    const facts = { expected: `a ${typeName(type)}`, found: `a ${typeName(scalar.type)}` };
    this.report('type-mismatch', facts, expression);
    return undefined;
  }

  /** A literal as a value: of its own type, or of the one it is compared with. */
  private settle(
    literal: Literal,
    type: ColumnType = literalType(literal),
  ): CheckedScalar | undefined {
    const read = valueAs(literal, type);
    if ('value' in read) return { kind: 'value', value: read.value, type: read.type };
    const { start, end } = literal.span;
    this.problems.push({ ...read.problem, position: start, length: end - start });
    return undefined;
  }

  /** A value, also a literal alone. */
  scalar(expression: Expression): CheckedScalar | undefined {
    const side = this.side(expression);
    return side?.kind === 'literal' ? this.settle(side.literal) : side?.scalar;
  }

  private side(expression: Expression): Side | undefined {
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

  private column(expression: Extract<Expression, { kind: 'property' }>): Side | undefined {
    const column = this.lookup.column(expression, this.problems);
    if (column === undefined) return undefined;
    const { name, type, filterable } = column;
    if (filterable) {
      return { kind: 'typed', scalar: { kind: 'column', column, type: computedType(type) } };
    }
    this.report('not-filterable', { name, type: typeName(type) }, expression);
    return undefined;
  }

  private arithmetic(expression: Extract<Expression, { kind: 'arithmetic' }>): Side | undefined {
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

  private call(call: Call): Side | undefined {
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
  private ago(call: Call): Side | undefined {
    const [only] = call.args;
    if (only === undefined || call.args.length !== 1) return this.wrongCount(call, 1);
    const found = only.kind === 'text' ? before(this.now, only.value) : undefined;
    if (found !== undefined) return moment(found, false);
    this.report('invalid-value', { type: 'duration', notation: "'P7D' or 'PT12H'" }, only);
    return undefined;
  }

  // BIN(number, width) or BIN(time, 'P1M' [, zone])
  private bin(call: Call): Side | undefined {
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
  private lists(args: readonly Expression[]): (CheckedScalar | undefined)[] {
    const columns = args.map((one) => (one.kind === 'array' ? undefined : this.scalar(one)));
    const leader = columns.find((one) => one !== undefined);
    const list = leader === undefined ? this.typeOfMembers(args) : leader.type;
    const element = list?.kind === 'array' ? list.element : undefined;
    return args.map((one, index) => {
      const scalar = columns[index];
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
  private typeOfMembers(lists: readonly Expression[]): ColumnType | undefined {
    const members = lists.flatMap((one) => (one.kind === 'array' ? one.members : []));
    const [first] = members;
    if (first === undefined) return { kind: 'array', element: text };
    const known = members.map((member) => new Checker(this.lookup, this.now, []).side(member));
    const typed = known.find((side) => side?.kind === 'typed');
    if (typed?.kind === 'typed') return { kind: 'array', element: typed.scalar.type };
    const [literal] = known;
    return literal?.kind === 'literal'
      ? { kind: 'array', element: literalType(literal.literal) }
      : undefined;
  }

  private listLiteral(
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

  private argument(expression: Expression, parameter: Parameter): CheckedScalar | undefined {
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

  private literalArgument(literal: Literal, parameter: Parameter): CheckedScalar | undefined {
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

  private mismatch(expected: string, type: ColumnType, expression: Expression): void {
    this.report('type-mismatch', { expected, found: `a ${typeName(type)}` }, expression);
  }

  private wrongCount({ name, args, span }: Call, expected: number): undefined {
    const facts = { name: name.toUpperCase(), expected, found: args.length };
    this.problems.push(problem('wrong-argument-count', facts, span));
    return undefined;
  }

  private report<Code extends ProblemCode>(
    code: Code,
    facts: ProblemFacts<Code>,
    { span }: Expression,
  ): void {
    this.problems.push(problem(code, facts, span));
  }
}

/** The type that a column's values have in conditions. */
function computedType(type: ColumnType): ColumnType {
  // An object identifier is a number there.
  return type.kind === 'integer' && type.databaseType !== undefined ? whole : type;
}

function isCondition(expression: Expression): boolean {
  if (expression.kind !== 'call') return conditions.has(expression.kind);
  return expression.name === 'has' || relationNamed(expression.name) !== undefined;
}

const conditions: ReadonlySet<Expression['kind']> = new Set([
  'and',
  'or',
  'not',
  'comparison',
  'between',
  'in',
  'like',
  'isNull',
]);

function moment(at: Date, dayOnly: boolean): Side {
  const value = at.toISOString();
  const scalar: CheckedScalar = dayOnly
    ? { kind: 'value', value: value.slice(0, 10), type: { kind: 'date' } }
    : { kind: 'value', value, type: timestamp };
  return { kind: 'typed', scalar };
}
