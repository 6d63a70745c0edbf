import { printExpression, type Expression } from '../expression/index.ts';
import { spoken } from '../query/index.ts';
import type { CheckedScalar } from './checked.ts';

/** What a value is called in the middle of a sentence: "toll", "month of passed at". */
export function spokenTerm(expression: Expression, scalar: CheckedScalar): string {
  if (scalar.kind === 'column') return spoken(scalar.column.label);
  if (scalar.kind !== 'function' || expression.kind !== 'call') return printExpression(expression);
  const [of, width] = scalar.args;
  const [written] = expression.args;
  if (of === undefined || written === undefined) return printExpression(expression);
  const what = spokenTerm(written, of);
  if (scalar.name === 'initial') return `first letter of ${what}`;
  if (scalar.name !== 'bin') return `${scalar.name} of ${what}`;
  const step = width?.kind === 'value' ? width.value : '';
  return durations[step] === undefined
    ? `${what} in steps of ${step}`
    : `${durations[step]} of ${what}`;
}

const durations: Readonly<Record<string, string>> = {
  P1Y: 'calendar year',
  P3M: 'calendar quarter',
  P1M: 'calendar month',
  P1W: 'calendar week',
  P1D: 'calendar day',
  PT1H: 'clock hour',
};

/** The same at the beginning of one. */
export function labelOfTerm(expression: Expression, scalar: CheckedScalar): string {
  if (scalar.kind === 'column') return scalar.column.label;
  const text = spokenTerm(expression, scalar);
  return text.charAt(0).toUpperCase() + text.slice(1);
}
