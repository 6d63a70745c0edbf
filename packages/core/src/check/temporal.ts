import type { Comparator } from '../expression/index.ts';
import type { CheckedExpression, CheckedScalar } from './checked.ts';

/** A stretch of time; an instant begins and ends at once. Undefined ends are open. */
export interface Stretch {
  readonly start: CheckedScalar | undefined;
  readonly end: CheckedScalar | undefined;
}

type End = { readonly at: CheckedScalar } | 'ever before' | 'ever after';

/** Where `a` and `b` stand to each other, as CQL2 (7.6) defines it by their ends. */
type Relation = (a: Ends, b: Ends) => CheckedExpression;

interface Ends {
  readonly start: End;
  readonly end: End;
}

/** The temporal functions, each as comparisons of the ends. */
export const temporalRelations: Readonly<Record<string, Relation>> = {
  t_after: (a, b) => compare(a.start, '>', b.end),
  t_before: (a, b) => compare(a.end, '<', b.start),
  t_contains: (a, b) => all(compare(a.start, '<', b.start), compare(a.end, '>', b.end)),
  t_during: (a, b) => all(compare(a.start, '>', b.start), compare(a.end, '<', b.end)),
  t_disjoint: (a, b) => any(compare(a.end, '<', b.start), compare(a.start, '>', b.end)),
  t_intersects: (a, b) => all(compare(a.end, '>=', b.start), compare(a.start, '<=', b.end)),
  t_equals: (a, b) => all(compare(a.start, '=', b.start), compare(a.end, '=', b.end)),
  t_starts: (a, b) => all(compare(a.start, '=', b.start), compare(a.end, '<', b.end)),
  t_startedby: (a, b) => all(compare(a.start, '=', b.start), compare(a.end, '>', b.end)),
  t_finishes: (a, b) => all(compare(a.start, '>', b.start), compare(a.end, '=', b.end)),
  t_finishedby: (a, b) => all(compare(a.start, '<', b.start), compare(a.end, '=', b.end)),
  t_meets: (a, b) => compare(a.end, '=', b.start),
  t_metby: (a, b) => compare(a.start, '=', b.end),
  t_overlaps: (a, b) =>
    all(compare(a.start, '<', b.start), compare(a.end, '>', b.start), compare(a.end, '<', b.end)),
  t_overlappedby: (a, b) =>
    all(compare(a.start, '>', b.start), compare(a.start, '<', b.end), compare(a.end, '>', b.end)),
};

/** The relation that a name stands for; undefined for names that are none, such as `constructor`. */
export function relationNamed(name: string): Relation | undefined {
  return Object.hasOwn(temporalRelations, name) ? temporalRelations[name] : undefined;
}

/** A temporal function of two stretches as a condition. */
export function relate(relation: Relation, a: Stretch, b: Stretch): CheckedExpression {
  return relation(endsOf(a), endsOf(b));
}

function endsOf({ start, end }: Stretch): Ends {
  return {
    start: start === undefined ? 'ever before' : { at: start },
    end: end === undefined ? 'ever after' : { at: end },
  };
}

function all(...operands: CheckedExpression[]): CheckedExpression {
  return { kind: 'and', operands };
}

function any(...operands: CheckedExpression[]): CheckedExpression {
  return { kind: 'or', operands };
}

function compare(left: End, comparator: Comparator, right: End): CheckedExpression {
  if (typeof left !== 'string' && typeof right !== 'string') {
    return { kind: 'comparison', comparator, left: left.at, right: right.at };
  }
  // An open end lies before or after every moment.
  const [one, other] = [rank(left), rank(right)];
  const holds = {
    '=': one === other,
    '<>': one !== other,
    '<': one < other,
    '<=': one <= other,
    '>': one > other,
    '>=': one >= other,
  }[comparator];
  const moment = [left, right].find((end) => typeof end !== 'string');
  if (moment !== undefined) {
    // Of a moment that is missing nothing is known, however open the other end is.
    return {
      kind: 'comparison',
      comparator: holds ? '=' : '<>',
      left: moment.at,
      right: moment.at,
    };
  }
  const operand = { kind: 'value', value: String(holds), type: { kind: 'boolean' } } as const;
  return { kind: 'truth', operand };
}

function rank(end: End): number {
  if (end === 'ever before') return -1;
  return end === 'ever after' ? 1 : 0;
}
