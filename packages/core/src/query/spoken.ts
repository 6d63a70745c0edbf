import { isLogical, printExpression, type Expression } from '../expression/index.ts';
import {
  aggregateArguments,
  isAggregateName,
  spoken,
  type AggregateName,
} from '../schema/index.ts';

/** How levels and aggregates are called in the middle of a sentence, in one language. */
export interface TermWords {
  /** A column's label: "Passed at" → "passed at". */
  readonly inside: (label: string) => string;
  /** Functions and aggregates, by their names in queries, of something. */
  readonly terms: Readonly<Record<string, (what: string) => string>>;
  /** The same of nothing: of the rows themselves. */
  readonly ofRows: Readonly<Record<string, string>>;
  /** Bins of time by their ISO 8601 duration. */
  readonly bins: Readonly<Record<string, string>>;
  readonly inBins: (what: string, bin: string) => string;
  readonly inSteps: (what: string, width: string) => string;
  readonly percentile: (what: string, percent: string) => string;
  /** Made of those rows alone that meet a condition, as the filter language has it. */
  readonly onlyWhere: (what: string, condition: string) => string;
}

const of =
  (name: string) =>
  (what: string): string =>
    `${name} ${what}`;

/** The words of the labels that answers carry. */
export const englishTerms: TermWords = {
  inside: spoken,
  terms: {
    year: of('year of'),
    quarter: of('quarter of'),
    month: of('month of'),
    week: of('week of'),
    day: of('day of'),
    weekday: of('weekday of'),
    hour: of('hour of'),
    initial: of('first letter of'),
    length: of('length of'),
    count: of('count of'),
    distinct: of('different values of'),
    sum: of('sum of'),
    avg: of('average of'),
    min: of('least'),
    max: of('greatest'),
    median: of('median of'),
    share: of('share of'),
  },
  ofRows: { count: 'count', share: 'share' },
  bins: {
    P1Y: 'calendar year',
    P3M: 'calendar quarter',
    P1M: 'calendar month',
    P1W: 'calendar week',
    P1D: 'calendar day',
    PT1H: 'clock hour',
  },
  inBins: (what, bin) => `${bin} of ${what}`,
  inSteps: (what, width) => `${what} in steps of ${width}`,
  percentile: (what, percent) => `percentile ${percent} of ${what}`,
  onlyWhere: (what, condition) => `${what} where ${condition}`,
};

/**
 * What a level or an aggregate is called in the middle of a sentence: "month of passed at", "sum
 * of toll". `labelOf` gives the label of a column.
 */
export function spokenTerm(
  expression: Expression,
  labelOf: (name: string) => string,
  words = englishTerms,
): string {
  if (expression.kind === 'property') return words.inside(labelOf(expression.name));
  if (expression.kind !== 'call') return printExpression(expression);
  const { name } = expression;
  const condition = isAggregateName(name) ? conditionAmong(name, expression.args) : undefined;
  if (condition !== undefined) {
    const args = expression.args.filter((one) => one !== condition);
    const all = spokenTerm({ ...expression, args }, labelOf, words);
    return words.onlyWhere(all, printExpression(condition));
  }
  const { args } = expression;
  const [of, by] = args;
  if (of === undefined) return known(words.ofRows, name) ?? `${name}()`;
  const what = spokenTerm(of, labelOf, words);
  if (name === 'bin' && by?.kind === 'text') {
    return words.inBins(what, known(words.bins, by.value) ?? by.value);
  }
  if (name === 'bin' && by?.kind === 'number') return words.inSteps(what, by.value);
  if (name === 'percentile' && by?.kind === 'number') return words.percentile(what, by.value);
  return known(words.terms, name)?.(what) ?? printExpression(expression);
}

/** The condition of an aggregate: a comparison, or a boolean column behind the arguments. */
function conditionAmong(name: AggregateName, args: readonly Expression[]): Expression | undefined {
  const last = args.at(-1);
  const isBehind = args.length > aggregateArguments[name][1] && last?.kind === 'property';
  return args.find(isLogical) ?? (isBehind ? last : undefined);
}

/** Names come from queries: `constructor` is none of these. */
function known<Word>(words: Readonly<Record<string, Word>>, name: string): Word | undefined {
  return Object.hasOwn(words, name) ? words[name] : undefined;
}
