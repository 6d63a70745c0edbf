import type { Expression } from '../expression/index.ts';
import { nearest, problem, type Problem } from '../problem/index.ts';
import type { Name } from '../query/index.ts';
import {
  isComparable,
  isNumeric,
  isTextual,
  typeName,
  type ColumnDescription,
  type ColumnType,
} from '../schema/index.ts';
import type { CheckedExpression, CheckedScalar } from './checked.ts';
import { literalType, valueAs } from './value.ts';

const functions = ['casei'] as const;

type Literal = Extract<Expression, { kind: 'text' | 'number' | 'boolean' | 'date' | 'timestamp' }>;

/** A side whose name is looked up; a literal waits for the other side to tell its type. */
type Side =
  | { readonly kind: 'typed'; readonly scalar: CheckedScalar; readonly type: ColumnType }
  | { readonly kind: 'literal'; readonly literal: Literal; readonly casei: boolean };

/**
 * Checks one filter. Every mistake is pushed to `problems` with its place; a part that has one
 * comes back as undefined, and the rest is checked all the same.
 */
export class Checker {
  private readonly lookUp: (name: Name) => ColumnDescription | undefined;
  private readonly problems: Problem[];

  constructor(lookUp: (name: Name) => ColumnDescription | undefined, problems: Problem[]) {
    this.lookUp = lookUp;
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
        const sides = this.comparable([expression.left, expression.right]);
        if (sides === undefined) return undefined;
        const [left, right] = sides;
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
        const side = this.side(expression.operand);
        const operand = side && this.settle(side);
        return operand && { kind: 'isNull', operand };
      }
      case 'property':
      case 'boolean':
      case 'call':
      case 'text':
      case 'number':
      case 'date':
      case 'timestamp':
        return this.truth(expression);
      default:
        throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
    }
  }

  private truth(expression: Expression): CheckedExpression | undefined {
    const side = this.side(expression);
    if (side === undefined) return undefined;
    const type = side.kind === 'typed' ? side.type : literalType(side.literal);
    if (type.kind !== 'boolean') {
      this.report('not-a-condition', { found: `a ${typeName(type)} alone` }, expression);
      return undefined;
    }
    const operand = this.settle(side);
    return operand && { kind: 'truth', operand };
  }

  private like(expression: Extract<Expression, { kind: 'like' }>): CheckedExpression | undefined {
    const operand = this.side(expression.operand);
    const pattern = this.side(expression.pattern);
    if (operand === undefined || pattern === undefined) return undefined;
    const type = operand.kind === 'typed' ? operand.type : literalType(operand.literal);
    if (!isTextual(type)) {
      const facts = { expected: 'text', found: `a ${typeName(type)}` };
      this.report('type-mismatch', facts, expression.operand);
      return undefined;
    }
    if (pattern.kind !== 'literal' || pattern.literal.kind !== 'text') {
      this.report('pattern-not-literal', {}, expression.pattern);
      return undefined;
    }
    if (/(?<!\\)(?:\\\\)*\\$/.test(pattern.literal.value)) {
      this.report('pattern-ends-in-escape', {}, expression.pattern);
      return undefined;
    }
    const left = this.settle(operand);
    const right = this.settle(pattern);
    return left && right && { kind: 'like', operand: left, pattern: right };
  }

  /** Settles expressions that are compared with each other on one type. */
  private comparable(expressions: readonly Expression[]): readonly CheckedScalar[] | undefined {
    const sides = expressions.map((expression) => this.side(expression));
    let sound = true;
    const first = sides.find((side) => side?.kind === 'typed');
    // Only literals: the first one says the type.
    const leader = first?.kind === 'typed' ? first.type : undefined;
    const [head] = sides;
    const type = leader ?? (head?.kind === 'literal' ? literalType(head.literal) : undefined);
    const settled: CheckedScalar[] = [];
    for (const [index, side] of sides.entries()) {
      const expression = expressions[index];
      if (side === undefined || expression === undefined || type === undefined) {
        sound = false;
        continue;
      }
      const scalar =
        side.kind === 'typed'
          ? this.columnLike(side, type, expression)
          : this.literalLike(side, type, first, expression);
      if (scalar === undefined) sound = false;
      else settled.push(scalar);
    }
    return sound ? settled : undefined;
  }

  private columnLike(
    side: Extract<Side, { kind: 'typed' }>,
    type: ColumnType,
    { span }: Expression,
  ): CheckedScalar | undefined {
    if (!isComparable(side.type)) {
      const name = side.scalar.kind === 'column' ? side.scalar.column.name : 'this';
      this.problems.push(problem('not-comparable', { name, type: typeName(side.type) }, span));
      return undefined;
    }
    if (!alike(side.type, type)) {
      const facts = { expected: `a ${typeName(type)}`, found: `a ${typeName(side.type)}` };
      this.problems.push(problem('type-mismatch', facts, span));
      return undefined;
    }
    return side.scalar;
  }

  private literalLike(
    side: Extract<Side, { kind: 'literal' }>,
    type: ColumnType,
    leader: Side | undefined,
    { span }: Expression,
  ): CheckedScalar | undefined {
    // The column's own problem says enough.
    if (leader?.kind === 'typed' && !isComparable(type)) return undefined;
    const read = valueAs(side.literal, type);
    if ('problem' in read) {
      this.problems.push({ ...read.problem, position: span.start, length: span.end - span.start });
      return undefined;
    }
    const value: CheckedScalar = { kind: 'value', value: read.value, type: read.type };
    return side.casei ? { kind: 'casei', operand: value } : value;
  }

  private settle(side: Side): CheckedScalar | undefined {
    if (side.kind === 'typed') return side.scalar;
    const type = literalType(side.literal);
    const read = valueAs(side.literal, type);
    if ('problem' in read) return undefined;
    const value: CheckedScalar = { kind: 'value', value: read.value, type };
    return side.casei ? { kind: 'casei', operand: value } : value;
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
        return { kind: 'literal', literal: expression, casei: false };
      case 'call':
        return this.call(expression);
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
    const column = this.lookUp(expression);
    if (column === undefined) return undefined;
    if (!column.filterable) {
      const facts = { name: column.name, type: typeName(column.type) };
      this.report('not-filterable', facts, expression);
      return undefined;
    }
    return { kind: 'typed', scalar: { kind: 'column', column }, type: column.type };
  }

  private call(expression: Extract<Expression, { kind: 'call' }>): Side | undefined {
    const { name, args } = expression;
    if (name !== 'casei') {
      const known = functions.map((one) => one.toUpperCase()).join(', ');
      const near = nearest(name, functions)?.toUpperCase();
      this.report('unknown-function', { name, near, known }, expression);
      return undefined;
    }
    const [only] = args;
    if (args.length !== 1 || only === undefined) {
      const facts = { name: 'CASEI', expected: 1, found: args.length };
      this.report('wrong-argument-count', facts, expression);
      return undefined;
    }
    const side = this.side(only);
    if (side === undefined) return undefined;
    const type = side.kind === 'typed' ? side.type : literalType(side.literal);
    if (!isTextual(type)) {
      this.report('type-mismatch', { expected: 'text', found: `a ${typeName(type)}` }, only);
      return undefined;
    }
    if (side.kind === 'literal') return { ...side, casei: true };
    return { kind: 'typed', scalar: { kind: 'casei', operand: side.scalar }, type };
  }

  private report(...[code, facts, { span }]: Report): void {
    this.problems.push(problem(code, facts as never, span));
  }
}

type Code = Parameters<typeof problem>[0];
type Report = { [One in Code]: [One, Parameters<typeof problem<One>>[1], Expression] }[Code];

/** Whether two columns may be compared with each other. */
function alike(one: ColumnType, other: ColumnType): boolean {
  if (isNumeric(one)) return isNumeric(other);
  if (one.kind === 'enum') return other.kind === 'enum' && one.name === other.name;
  return one.kind === other.kind;
}
