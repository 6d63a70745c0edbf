import { englishTerms } from '@ephoros/core/query';
import type { SentenceMessages } from './sentence-messages.ts';

const not = (negated: boolean): string => (negated ? 'not ' : '');
export const englishSentence: SentenceMessages = {
  ...englishTerms,
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
  begins: (what, text, negated) =>
    `${what} ${negated ? 'does not begin' : 'begins'} with “${text}”`,
  ends: (what, text, negated) => `${what} ${negated ? 'does not end' : 'ends'} with “${text}”`,
  missing: (what, negated) => (negated ? `${what} has a value` : `${what} is null`),
  selected: (count, negated) =>
    `it is ${not(negated)}${count === 1 ? 'the selected row' : `one of ${count} selected rows`}`,
  has: (rows, condition) =>
    condition === undefined ? `it has ${rows}` : `it has ${rows} where ${condition}`,
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
};
