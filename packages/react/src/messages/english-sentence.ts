import type { SentenceMessages } from './sentence-messages.ts';

const not = (negated: boolean): string => (negated ? 'not ' : '');
const of =
  (name: string) =>
  (what: string): string =>
    `${name} ${what}`;

export const englishSentence: SentenceMessages = {
  // "IBAN" stays.
  inside: (label) =>
    /^\p{Lu}\p{Ll}/u.test(label) ? label.charAt(0).toLowerCase() + label.slice(1) : label,
  where: ' where ',
  and: ' and ',
  or: ' or ',
  not: (condition) => `not ${condition}`,
  always: 'always',
  never: 'never',
  comparisons: {
    '=': 'is',
    '<>': 'is not',
    '<': 'is below',
    '<=': 'is at most',
    '>': 'is above',
    '>=': 'is at least',
  },
  timeComparisons: {
    '=': 'is',
    '<>': 'is not',
    '<': 'is before',
    '<=': 'is not after',
    '>': 'is after',
    '>=': 'is not before',
  },
  between: (what, low, high, negated) => `${what} is ${not(negated)}between ${low} and ${high}`,
  oneOf: (what, members, negated) => {
    const last = members.at(-1) ?? '';
    const before = members.slice(0, -1).join(', ');
    return `${what} is ${not(negated)}${before === '' ? last : `${before} or ${last}`}`;
  },
  like: (what, pattern, negated) => `${what} is ${not(negated)}like ${pattern}`,
  contains: (what, text, negated) =>
    `${what} ${negated ? 'does not contain' : 'contains'} “${text}”`,
  missing: (what, negated) => `${what} is ${not(negated)}missing`,
  quoted: (text) => `“${text}”`,
  stretch: (from, to) => `the time from ${from} to ${to}`,
  unbounded: 'ever',
  mentioning: (words, further) =>
    `${further ? ',' : ''} mentioning ${words.map((one) => `“${one}”`).join(' and ')}`,
  groupedBy: [', grouped by ', ', then '],
  with: [', with ', ' and '],
  sorted: [', ', ', then '],
  newest: (label) => `newest ${label} first`,
  oldest: (label) => `oldest ${label} first`,
  highest: (label) => `highest ${label} first`,
  lowest: (label) => `lowest ${label} first`,
  by: (label, descending) => `by ${label}${descending ? ', last to first' : ''}`,
  mostRows: 'most rows first',
  fewestRows: 'fewest rows first',
  groupsBy: (label, descending) => `groups by ${label}${descending ? ', last to first' : ''}`,
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
};
