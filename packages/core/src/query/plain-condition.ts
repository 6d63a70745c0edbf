import type { Comparator, Expression } from '../expression/index.ts';
import { termsOf } from './condition.ts';
import { readPattern } from './pattern.ts';

/** A value as a condition holds it: numbers, dates and moments as they are written. */
export type PlainValue = string | boolean;

/** One of the conditions that a filter joins by AND, for anyone who does not read expressions. */
export type PlainCondition =
  | { readonly column: string; readonly is: Comparator; readonly value: PlainValue }
  | { readonly column: string; readonly is: 'oneOf'; readonly values: readonly PlainValue[] }
  /** Both ends included. */
  | {
      readonly column: string;
      readonly is: 'between';
      readonly low: PlainValue;
      readonly high: PlainValue;
    }
  /** Letter case ignored, no wildcards. */
  | { readonly column: string; readonly is: 'contains'; readonly value: string }
  /** `%` stands for any text, `_` for one character, `\` before them for themselves. */
  | { readonly column: string; readonly is: 'like'; readonly value: string }
  | { readonly column: string; readonly is: 'missing' }
  /** The opposite of one of the others: `NOT IN`, `IS NOT NULL`. */
  | { readonly column: string; readonly is: 'not'; readonly condition: PlainCondition };

/**
 * A filter as plain conditions that all must hold; none for no filter. Undefined where it says more
 * than they can: with OR, functions or columns on both sides.
 */
export function plainConditions(
  filter: Expression | undefined,
): readonly PlainCondition[] | undefined {
  const plain = termsOf(filter).map(plainCondition);
  const all = plain.filter((one) => one !== undefined);
  return all.length === plain.length ? all : undefined;
}

const turned: Readonly<Record<Comparator, Comparator>> = {
  '=': '=',
  '<>': '<>',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
};

function plainCondition(term: Expression): PlainCondition | undefined {
  switch (term.kind) {
    case 'property':
      return { column: term.name, is: '=', value: true };
    case 'not': {
      const condition = plainCondition(term.operand);
      return condition && { column: condition.column, is: 'not', condition };
    }
    case 'comparison': {
      const { left, comparator, right } = term;
      const turn = left.kind !== 'property';
      const [column, value] = turn ? [right, plainValue(left)] : [left, plainValue(right)];
      if (column.kind !== 'property' || value === undefined) return undefined;
      return { column: column.name, is: turn ? turned[comparator] : comparator, value };
    }
    case 'between': {
      const [low, high] = [plainValue(term.low), plainValue(term.high)];
      if (term.operand.kind !== 'property' || low === undefined || high === undefined) {
        return undefined;
      }
      return { column: term.operand.name, is: 'between', low, high };
    }
    case 'in': {
      const values = term.members.map(plainValue).filter((value) => value !== undefined);
      const whole = values.length === term.members.length;
      if (term.operand.kind !== 'property' || !whole) return undefined;
      return { column: term.operand.name, is: 'oneOf', values };
    }
    case 'like':
      return plainLike(term.operand, term.pattern);
    case 'isNull':
      return term.operand.kind === 'property'
        ? { column: term.operand.name, is: 'missing' }
        : undefined;
    default:
      return undefined;
  }
}

function plainLike(operand: Expression, pattern: Expression): PlainCondition | undefined {
  if (operand.kind === 'property' && pattern.kind === 'text') {
    return { column: operand.name, is: 'like', value: pattern.value };
  }
  const [column] = operand.kind === 'call' ? operand.args : [];
  if (column?.kind !== 'property') return undefined;
  const sought = readPattern(operand, pattern, column.name);
  return sought?.operator === 'contains'
    ? { column: column.name, is: 'contains', value: sought.text }
    : undefined;
}

function plainValue(expression: Expression): PlainValue | undefined {
  switch (expression.kind) {
    case 'text':
    case 'number':
    case 'date':
    case 'timestamp':
    case 'boolean':
      return expression.value;
    default:
      return undefined;
  }
}
