import { printExpression, type Expression } from '../expression/index.ts';

/** A label in the middle of a sentence: "Passed at" → "passed at", "IBAN" stays. */
export function spoken(label: string): string {
  return /^\p{Lu}\p{Ll}/u.test(label) ? label.charAt(0).toLowerCase() + label.slice(1) : label;
}

const durations: Readonly<Record<string, string>> = {
  P1Y: 'calendar year',
  P3M: 'calendar quarter',
  P1M: 'calendar month',
  P1W: 'calendar week',
  P1D: 'calendar day',
  PT1H: 'clock hour',
};

/** Words that stand before what they are made of. */
const words: Readonly<Record<string, string>> = {
  year: 'year of',
  quarter: 'quarter of',
  month: 'month of',
  week: 'week of',
  day: 'day of',
  weekday: 'weekday of',
  hour: 'hour of',
  initial: 'first letter of',
  length: 'length of',
  count: 'count of',
  distinct: 'different values of',
  sum: 'sum of',
  avg: 'average of',
  min: 'least',
  max: 'greatest',
  median: 'median of',
  share: 'share of',
};

/**
 * What a level or an aggregate is called in the middle of a sentence: "month of passed at", "sum
 * of toll". `labelOf` gives the label of a column.
 */
export function spokenTerm(expression: Expression, labelOf: (name: string) => string): string {
  if (expression.kind === 'property') return spoken(labelOf(expression.name));
  if (expression.kind !== 'call') return printExpression(expression);
  const { name, args } = expression;
  const [of, by] = args;
  if (of === undefined) return name === 'count' || name === 'share' ? name : `${name}()`;
  const what = spokenTerm(of, labelOf);
  if (name === 'bin' && by?.kind === 'text') return `${durations[by.value] ?? by.value} of ${what}`;
  if (name === 'bin' && by?.kind === 'number') return `${what} in steps of ${by.value}`;
  if (name === 'percentile' && by?.kind === 'number') return `percentile ${by.value} of ${what}`;
  const said = words[name];
  return said === undefined ? printExpression(expression) : `${said} ${what}`;
}
