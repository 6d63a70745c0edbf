import type { AggregateName } from '@ephoros/core/schema';

/** The kinds of conditions that a form offers. */
export type ConditionKind = 'equals' | 'oneOf' | 'contains' | 'range' | 'missing';

/** What the editors of a view say, in one language. Labels and numbers come written. */
export interface EditorMessages {
  /** What can be added to a sentence. */
  readonly addCondition: string;
  readonly addSort: string;
  readonly addGroup: string;
  readonly addLevel: string;
  readonly addSum: string;

  /** What the sheets are called that open. */
  readonly conditionSheet: string;
  readonly sortSheet: string;
  readonly levelSheet: string;
  readonly sumSheet: string;
  readonly readingSheet: string;

  readonly apply: string;
  readonly remove: string;

  /** Choosing a column. */
  readonly findColumn: string;
  readonly ofReferred: string;
  readonly noIndex: string;

  /** A condition. */
  readonly how: string;
  readonly conditions: Readonly<Record<ConditionKind, string>>;
  readonly from: string;
  readonly to: string;
  readonly valueMissing: string;
  readonly recent: string;
  readonly isMissing: string;
  readonly isThere: string;
  readonly tooComplex: string;
  readonly inTheLine: string;
  readonly notComparable: string;
  readonly timeOfDay: string;
  readonly timeOfDayHint: string;

  /** The values of a column. */
  readonly findValues: string;
  readonly readingValues: string;
  readonly valuesOf: (label: string) => string;
  readonly noSuchValue: string;
  readonly missingValue: string;
  readonly allListed: (count: string) => string;
  readonly more: (count: string) => string;
  readonly further: string;
  readonly countedAt: (time: string) => string;
  readonly spread: string;
  readonly bar: (from: string, to: string, count: string) => string;
  readonly nothingHere: string;

  /** Sort terms. */
  readonly highestFirst: string;
  readonly lowestFirst: string;

  /** Levels of a grouping. */
  readonly groupBy: string;
  readonly by: (way: string) => string;
  readonly eachValue: string;
  readonly firstLetter: string;
  /** By the width of the bin (ISO 8601), and by the part of a date. */
  readonly ways: Readonly<Record<string, string>>;
  readonly inStepsOf: string;
  readonly group: string;
  readonly stepHint: string;
  readonly mostLevels: (count: number) => string;
  readonly furtherOut: string;
  readonly furtherIn: string;

  /** What is made of a column. */
  readonly madeOf: string;
  readonly aggregates: Readonly<Record<AggregateName, string>>;

  /** The place of a column. */
  readonly place: string;

  /** How the rows are read. */
  readonly counted: string;
  readonly countings: Readonly<Record<'exact' | 'estimate' | 'none', string>>;
  readonly rowsStand: string;
  readonly densities: Readonly<Record<'compact' | 'normal' | 'roomy', string>>;
  readonly rowsLie: string;
  readonly layouts: Readonly<Record<'down' | 'across', string>>;
  /** Where rows lie side by side: only what differs among them. */
  readonly onlyDifferences: string;
  readonly differs: (label: string) => string;
}
