import {
  and,
  call,
  missing,
  not,
  number,
  property,
  text,
  type ArithmeticOperator,
  type Comparator,
  type Expression,
} from '../expression/index.ts';
import { nearest, problem } from '../problem/index.ts';
import type { Tables } from '../schema/index.ts';
import { composed, functionNamed, functions, unsupported } from './functions.ts';
import { isNull, literal } from './literal.ts';
import type { Entity } from './model.ts';
import type { ArithmeticName, ComparisonOperator, Node } from './node.ts';
import {
  alone,
  always,
  any,
  holdsMember,
  isCondition,
  never,
  notACondition,
  opposite,
} from './condition-forms.ts';
import { notImplemented, Refusal } from './reader.ts';
import { navigationOf, resolve, type Resolved } from './resolve.ts';

type Of<Kind extends Node['kind']> = Extract<Node, { readonly kind: Kind }>;

const comparators: Readonly<Record<ComparisonOperator, Comparator>> = {
  eq: '=',
  ne: '<>',
  gt: '>',
  ge: '>=',
  lt: '<',
  le: '<=',
};

/** What holds where an order does not. */
const opposites: Readonly<Record<ComparisonOperator, Comparator>> = {
  eq: '<>',
  ne: '=',
  gt: '<=',
  ge: '<',
  lt: '>=',
  le: '>',
};

const signs: Readonly<Record<Exclude<ArithmeticName, 'div'>, ArithmeticOperator>> = {
  add: '+',
  sub: '-',
  mul: '*',
  divby: '/',
  mod: '%',
};

/** The condition of the query language that an expression of OData means for rows of an entity. @throws Refusal */
export function conditionOf(node: Node, entity: Entity, tables: Tables): Expression {
  return new Meaning(entity, tables).is(node, true);
}

/**
 * Finds out what an expression means. In OData comparisons are true or false where a side is null (URL Conventions
 * 4.01, 5.1.1.1: only null equals null, and nothing is above or below it), in the query language they are unknown:
 * so a condition and its opposite are both written out, and NOT never meets a null.
 */
class Meaning {
  private readonly entity: Entity;
  private readonly tables: Tables;
  /** What rows are called inside of `any` and `all`. */
  private readonly variable: string | undefined;

  constructor(entity: Entity, tables: Tables, variable?: string) {
    this.entity = entity;
    this.tables = tables;
    this.variable = variable;
  }

  /** Holds where the expression is true, or where it is false. */
  is(node: Node, wanted: boolean): Expression {
    const { span } = node;
    switch (node.kind) {
      case 'and':
      case 'or': {
        // Either of them is false where both together are.
        const opposite = node.kind === 'and' ? 'or' : 'and';
        const operands = node.operands.map((one) => this.is(one, wanted));
        return { kind: wanted ? node.kind : opposite, operands, span };
      }
      case 'not':
        return this.is(node.operand, !wanted);
      case 'comparison':
        return this.compared(node, wanted);
      case 'in':
        return this.among(node, wanted);
      default:
        // Null stays null, which is neither.
        return wanted ? this.truth(node) : { kind: 'not', operand: this.truth(node), span };
    }
  }

  /** A value that is true or false by itself. */
  private truth(node: Node): Expression {
    switch (node.kind) {
      case 'lambda':
        return this.anyOrAll(node);
      case 'call':
        if (functionNamed(node.name)?.isTest === true) return this.value(node);
        // What there is not is stated first.
        this.called(node);
        throw notACondition(node);
      case 'path':
        return this.value(node);
      case 'literal':
        if (node.of === 'null') return never(node);
        if (node.of !== 'boolean') throw notACondition(node);
        return this.value(node);
      default:
        throw notACondition(node);
    }
  }

  private compared(node: Of<'comparison'>, wanted: boolean): Expression {
    const { operator, left, right, span } = node;
    const sides = [left, right];
    const isEquality = operator === 'eq' || operator === 'ne';
    const missingSide = sides.find(isNull);
    if (missingSide !== undefined) {
      const other = missingSide === left ? right : left;
      if (!isEquality) return wanted ? never(node) : always(node);
      const isRequested = (operator === 'eq') === wanted;
      if (isNull(other)) return isRequested ? always(node) : never(node);
      const isMissing = this.isMissing(other);
      return isRequested ? isMissing : { ...not(isMissing), span };
    }
    const truth = sides.find((side) => side.kind === 'literal' && side.of === 'boolean');
    const condition = truth === left ? right : left;
    if (truth?.kind === 'literal' && isEquality && isCondition(condition)) {
      return this.comparedWithTruth(
        condition,
        truth.value === 'true',
        (operator === 'eq') === wanted,
      );
    }
    const [one, other] = [this.value(left), this.value(right)];
    const comparator = wanted ? comparators[operator] : opposites[operator];
    const test: Expression = { kind: 'comparison', comparator, left: one, right: other, span };
    const nullable = [left, right].map((side) => this.mayBeNull(side));
    const isMissing = [one, other].filter((_side, at) => nullable[at] === true).map(missing);
    if (isMissing.length === 0) return test;
    if (isEquality) {
      // Two nulls are equal, one differs from whatever is none.
      const bothMissing = isMissing.length === 2 ? and(isMissing) : undefined;
      if (comparator === '=') return bothMissing ? any([test, bothMissing], node) : test;
      if (bothMissing === undefined) return any([test, ...isMissing], node);
      return any([test, alone(one, other), alone(other, one)], node);
    }
    return wanted ? test : any([test, ...isMissing], node);
  }

  /** Whether a condition is true, or false; or is not, and null is neither. */
  private comparedWithTruth(node: Node, truth: boolean, isSame: boolean): Expression {
    if (isSame) return this.is(node, truth);
    const other = this.is(node, !truth);
    // A test of a text is null where the text is; of other conditions only what is made of such tests.
    if (node.kind === 'call') return any([other, missing(this.truth(node))], node);
    if (node.kind === 'comparison' || node.kind === 'in' || node.kind === 'lambda') return other;
    throw notImplemented('a comparison of several conditions at once', node.span);
  }

  private among({ operand, members, span }: Of<'in'>, wanted: boolean): Expression {
    const hasNull = members.some(isNull);
    const others = members.filter((member) => !isNull(member));
    const value = this.value(operand);
    const found: Expression =
      others.length === 0
        ? never({ span })
        : { kind: 'in', operand: value, members: others.map((one) => this.value(one)), span };
    const isMissing = missing(value);
    if (wanted) return hasNull ? any([found, isMissing], { span }) : found;
    const differs = not(found);
    if (hasNull) return { kind: 'and', operands: [differs, not(isMissing)], span };
    return this.mayBeNull(operand) ? any([differs, isMissing], { span }) : differs;
  }

  /** `passages/any(p: …)`: of rows that refer to this one, or of the members of a list. */
  private anyOrAll(node: Of<'lambda'>): Expression {
    const { which, condition, variable, span } = node;
    const segments = this.without(node.segments);
    const list = this.listOf(segments);
    if (list !== undefined) return holdsMember(list, node);
    const { relationship, target } = this.many(segments);
    const of = property(relationship);
    if (condition === undefined) return { ...call('has', of), span };
    const inside = new Meaning(target, this.tables, variable).is(condition, true);
    if (which === 'any') return { ...call('has', of, inside), span };
    // None of which it is not true, be it false or unknown.
    const others = any([not(inside), missing(inside)], node);
    return { ...not(call('has', of, others)), span };
  }

  private listOf(segments: Of<'path'>['segments']): Expression | undefined {
    const [first] = segments;
    const own = this.entity.properties.find(({ name }) => name === first?.name);
    return own?.type.isCollection === true && segments.length === 1
      ? property(own.column.name)
      : undefined;
  }

  private many(segments: Of<'path'>['segments']): { relationship: string; target: Entity } {
    const [first, second] = segments;
    if (first === undefined) throw notImplemented('a row as a list');
    const { navigation, target } = navigationOf(first, this.entity, this.tables);
    const { kind, name } = navigation.relationship;
    if (second !== undefined) throw notImplemented('a path to many rows', second.span);
    if (kind === 'one') throw notImplemented('a list of one row', first.span);
    return { relationship: name, target };
  }

  private value(node: Node): Expression {
    const { span } = node;
    switch (node.kind) {
      case 'literal':
        return literal(node);
      case 'path': {
        const found = this.resolve(node);
        if (found.kind === 'property') return { ...property(found.name), span };
        throw notImplemented('a row as a value', span);
      }
      case 'count': {
        const { relationship } = this.many(this.without(node.segments));
        return { ...call('count', property(relationship)), span };
      }
      case 'negative':
        return {
          kind: 'arithmetic',
          operator: '-',
          left: number('0'),
          right: this.value(node.operand),
          span,
        };
      case 'arithmetic':
        return {
          kind: 'arithmetic',
          operator: this.sign(node),
          left: this.value(node.left),
          right: this.value(node.right),
          span,
        };
      case 'call':
        return this.called(node);
      case 'and':
      case 'or':
      case 'not':
      case 'comparison':
      case 'in':
      case 'lambda':
        throw notImplemented('a condition as a value', span);
      default:
        throw new Error(`unknown expression ${JSON.stringify(node satisfies never)}`);
    }
  }

  private called({ name, args, span }: Of<'call'>): Expression {
    const known = functionNamed(name);
    if (known !== undefined) {
      return { ...call(known.name, ...args.map((arg) => this.value(arg))), span };
    }
    const [of] = args;
    if (composed.some((one) => one === name)) {
      if (of === undefined || args.length > 1) {
        const facts = { name, expected: 1, found: args.length };
        throw new Refusal(problem('wrong-argument-count', facts, span));
      }
      const value = this.value(of);
      if (name === 'date') return { ...call('bin', value, text('P1D')), span };
      if (name === 'floor') return { ...call('bin', value, number('1')), span };
      return opposite({ ...call('bin', opposite(value), number('1')), span });
    }
    if (unsupported.has(name)) throw notImplemented(`${name}()`, span);
    const names = [...Object.keys(functions), ...composed];
    const facts = { name, near: nearest(name, names), known: names.join(', ') };
    throw new Refusal(problem('unknown-function', facts, span));
  }

  /** `div` of whole numbers gives one (5.1.1.2.4). */
  private sign({ operator, left, right }: Of<'arithmetic'>): ArithmeticOperator {
    if (operator !== 'div') return signs[operator];
    return this.isWhole(left) && this.isWhole(right) ? 'div' : '/';
  }

  private isWhole(node: Node): boolean {
    switch (node.kind) {
      case 'literal':
        return node.of === 'number' && /^-?\d+$/.test(node.value);
      case 'path': {
        const found = this.resolve(node);
        return found.kind === 'property' && found.property.column.type.kind === 'integer';
      }
      case 'negative':
        return this.isWhole(node.operand);
      case 'arithmetic':
        return node.operator !== 'divby' && this.isWhole(node.left) && this.isWhole(node.right);
      case 'call':
        return ['length', 'year', 'month', 'day', 'hour'].includes(node.name);
      default:
        return node.kind === 'count';
    }
  }

  /** Of a reference to a row: that there is none. */
  private isMissing(node: Node): Expression {
    if (node.kind === 'path') {
      const found = this.resolve(node);
      if (found.kind === 'navigation') {
        if (found.navigation.relationship.kind === 'many') {
          throw notImplemented('many rows as a value', node.span);
        }
        const [key = ''] = found.target.table.key;
        return { ...missing(property(found.prefix + key)), span: node.span };
      }
    }
    return { ...missing(this.value(node)), span: node.span };
  }

  private mayBeNull(node: Node): boolean {
    switch (node.kind) {
      case 'literal':
      case 'count':
        return false;
      case 'path': {
        const found = this.resolve(node);
        return found.kind !== 'property' || found.nullable;
      }
      case 'negative':
        return this.mayBeNull(node.operand);
      case 'call':
        return node.args.some((one) => this.mayBeNull(one));
      default:
        // A division by zero is null.
        return true;
    }
  }

  private resolve({ segments }: Of<'path'>): Resolved {
    return resolve(this.without(segments), this.entity, this.tables);
  }

  /** Inside of `any` and `all` paths begin with their variable. */
  private without(segments: Of<'path'>['segments']): Of<'path'>['segments'] {
    if (this.variable === undefined) return segments;
    const [first, ...others] = segments;
    if (first?.name === this.variable) return others;
    throw notImplemented('a path out of any() or all()', first?.span);
  }
}
