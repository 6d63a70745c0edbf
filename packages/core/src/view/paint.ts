import { childrenOf, printExpression, type Expression } from '../expression/index.ts';
import { namesOf } from './names.ts';
import type { Tone, WrittenPaintRule } from '../schema/index.ts';

/**
 * A rule from a condition to a look: of the cell of a column, or of the row where none is named.
 * Of numbers a cell may carry a bar, or a tint by its place on a scale: from `from` to `to`, or
 * else from the least to the greatest value that the view shows.
 */
export type PaintRule =
  | {
      readonly kind: 'tone';
      readonly when: Expression;
      readonly tone: Tone;
      readonly column?: string;
    }
  | {
      readonly kind: 'bar' | 'scale';
      readonly column: string;
      readonly from?: number;
      readonly to?: number;
    };

export function printPaint(rules: readonly PaintRule[]): readonly WrittenPaintRule[] {
  return rules.map((rule) => {
    if (rule.kind === 'tone') {
      const { when, tone, column } = rule;
      return { when: printExpression(when), tone, ...(column !== undefined && { column }) };
    }
    const { kind, column, from, to } = rule;
    const ends = { ...(from !== undefined && { from }), ...(to !== undefined && { to }) };
    return kind === 'bar' ? { bar: column, ...ends } : { scale: column, ...ends };
  });
}

/** The names of the columns that rows must hold to be painted. */
export function namesPainted(rules: readonly PaintRule[]): readonly string[] {
  return [...new Set(rules.flatMap((rule) => (rule.kind === 'tone' ? namesOf(rule.when) : [])))];
}

const ofOtherRows = new Set(['has', 'count']);

/** Whether a condition asks of other rows: it cannot be evaluated on the row alone, so no formatting rule can use it. */
export function asksOtherRows(expression: Expression): boolean {
  if (expression.kind === 'call' && ofOtherRows.has(expression.name)) return true;
  return childrenOf(expression).some(asksOtherRows);
}
