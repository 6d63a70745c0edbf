import type { Comparator } from '@ephoros/core/expression';
import type { TermWords } from '@ephoros/core/query';

/** How a query is stated as one sentence, in one language. Labels and values come written. */
export interface SentenceMessages extends TermWords {
  /** Between the table and its conditions. */
  readonly where: string;
  readonly and: string;
  readonly or: string;
  readonly not: (condition: string) => string;
  readonly always: string;
  readonly never: string;

  readonly comparisons: Readonly<Record<Comparator, string>>;
  /** The same of dates and timestamps. */
  readonly timeComparisons: Readonly<Record<Comparator, string>>;
  readonly between: (what: string, low: string, high: string, negated: boolean) => string;
  readonly oneOf: (what: string, members: readonly string[], negated: boolean) => string;
  readonly like: (what: string, pattern: string, negated: boolean) => string;
  readonly contains: (what: string, text: string, negated: boolean) => string;
  readonly missing: (what: string, negated: boolean) => string;
  /** Of rows that were chosen one by one. */
  readonly selected: (count: number, negated: boolean) => string;

  readonly begins: (what: string, text: string, negated: boolean) => string;
  readonly ends: (what: string, text: string, negated: boolean) => string;
  /** Rows of a table refer to the row: any, or those for which a condition holds. */
  readonly has: (rows: string, condition: string | undefined) => string;
  readonly quoted: (text: string) => string;
  readonly stretch: (from: string, to: string) => string;
  readonly unbounded: string;

  /** `further` where conditions stand before. */
  readonly mentioning: (words: readonly string[], further: boolean) => string;
  /** Before the first of some and before each further one. */
  readonly groupedBy: readonly [first: string, further: string];
  readonly with: readonly [first: string, further: string];
  readonly sorted: readonly [first: string, further: string];

  readonly newest: (label: string) => string;
  readonly oldest: (label: string) => string;
  readonly highest: (label: string) => string;
  readonly lowest: (label: string) => string;
  readonly by: (label: string, descending: boolean) => string;
  readonly mostRows: string;
  readonly fewestRows: string;
  readonly groupsBy: (label: string, descending: boolean) => string;
}
