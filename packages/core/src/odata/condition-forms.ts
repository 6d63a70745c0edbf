import { call, missing, not, number, type Expression } from '../expression/index.ts';
import { problem } from '../problem/index.ts';
import { functionNamed } from './functions.ts';
import { literal } from './literal.ts';
import type { Node } from './node.ts';
import { notImplemented, Refusal } from './reader.ts';

type Of<Kind extends Node['kind']> = Extract<Node, { readonly kind: Kind }>;

/** A list that holds a value: all that is known of members. */
export function holdsMember(
  list: Expression,
  { which, condition, variable, span }: Of<'lambda'>,
): Expression {
  const isVariable = (node: Node): boolean =>
    node.kind === 'path' && node.segments.length === 1 && node.segments[0]?.name === variable;
  if (which === 'any' && condition?.kind === 'comparison' && condition.operator === 'eq') {
    const { left, right } = condition;
    const value = isVariable(left) ? right : isVariable(right) ? left : undefined;
    if (value?.kind === 'literal' && value.of !== 'null') {
      const members: Expression = { kind: 'array', members: [literal(value)], span: value.span };
      return { ...call('a_contains', list, members), span };
    }
  }
  throw notImplemented('a condition on the members of a list other than any(x: x eq value)', span);
}

/** Whether an expression is true or false by its form. */
export function isCondition(node: Node): boolean {
  if (node.kind === 'call') return functionNamed(node.name)?.isTest === true;
  return ['and', 'or', 'not', 'comparison', 'in', 'lambda'].includes(node.kind);
}

export function notACondition({ kind, span }: Node): Refusal {
  const found = kind === 'literal' ? 'a value alone' : 'a value';
  return new Refusal(problem('not-a-condition', { found }, span));
}

/** One of two values is missing, and it alone. */
export function alone(one: Expression, other: Expression): Expression {
  return { kind: 'and', operands: [missing(one), not(missing(other))], span: one.span };
}

export function any(operands: readonly Expression[], { span }: Pick<Node, 'span'>): Expression {
  return { kind: 'or', operands, span };
}

export function opposite(value: Expression): Expression {
  return { kind: 'arithmetic', operator: '-', left: number('0'), right: value, span: value.span };
}

export function always({ span }: Pick<Node, 'span'>): Expression {
  return { kind: 'boolean', value: true, span };
}

export function never({ span }: Pick<Node, 'span'>): Expression {
  return { kind: 'boolean', value: false, span };
}
