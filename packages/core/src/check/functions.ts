import type { ColumnType } from '../schema/index.ts';

/**
 * What an argument must be. `time` is a date or a timestamp, `list` a list column or literal,
 * `zone` the name of an IANA time zone.
 */
export type Parameter = 'text' | 'number' | 'time' | 'list' | 'digits' | 'zone';

interface Signature {
  readonly parameters: readonly Parameter[];
  /** How many of the last parameters may be left out. */
  readonly optional?: number;
  readonly result: ColumnType | 'as first';
  /** Whether it knows letters, which it does of texts in UTF-8 only. */
  readonly ofLetters?: true;
  /** One line for the documentation. */
  readonly meaning: string;
}

const whole: ColumnType = { kind: 'integer', bits: 32 };
const text: ColumnType = { kind: 'text' };
const truth: ColumnType = { kind: 'boolean' };

const partOfTime = (meaning: string): Signature => ({
  parameters: ['time', 'zone'],
  optional: 1,
  result: whole,
  meaning,
});
const textToText = (meaning: string): Signature => ({
  parameters: ['text'],
  result: text,
  ofLetters: true,
  meaning,
});
const textTest = (meaning: string): Signature => ({
  parameters: ['text', 'text'],
  result: truth,
  meaning,
});
const listTest = (meaning: string): Signature => ({
  parameters: ['list', 'list'],
  result: truth,
  meaning,
});

/** The functions that an executor computes. Those that `check` resolves itself are not here. */
export const functions = {
  casei: textToText(
    "the text with letter case taken away (Unicode's case folding), to compare regardless of it",
  ),
  accenti: textToText('the text with accents taken away, to compare regardless of them'),
  lower: textToText('the text in small letters'),
  upper: textToText('the text in capitals'),
  length: { parameters: ['text'], result: whole, meaning: 'the number of characters' },
  starts: textTest('whether the first text begins with the second, taken literally'),
  ends: textTest('whether the first text ends with the second, taken literally'),
  contains: textTest('whether the second text occurs in the first, taken literally'),
  abs: { parameters: ['number'], result: 'as first', meaning: 'the number without its sign' },
  round: {
    parameters: ['number', 'digits'],
    optional: 1,
    result: { kind: 'numeric' },
    meaning: 'the number rounded to so many digits after the point (0), halves away from zero',
  },
  initial: textToText('the first letter, as a capital'),
  bin: {
    // The width of a bin of time is a duration: `check` reads both kinds itself.
    parameters: ['number', 'number', 'zone'],
    optional: 1,
    result: { kind: 'numeric' },
    meaning:
      "where the bin begins that holds the value: BIN(toll, 50), BIN(passed_at, 'P1M', 'Europe/Paris'); the width above zero, or P1Y, P3M, P1M, P1W, P1D, PT1H",
  },
  year: partOfTime("the year, in UTC or a named time zone: YEAR(passed_at, 'Europe/Paris')"),
  quarter: partOfTime('the quarter, 1 to 4'),
  month: partOfTime('the month, 1 to 12'),
  week: partOfTime('the week of the year, 1 to 53 (ISO 8601)'),
  day: partOfTime('the day of the month, 1 to 31'),
  weekday: partOfTime('the day of the week, 1 (Monday) to 7 (Sunday)'),
  hour: partOfTime('the hour, 0 to 23'),
  a_equals: listTest('whether two lists contain the same members, in any order'),
  a_contains: listTest('whether the first list holds all members of the second'),
  a_containedby: listTest('whether the second list holds all members of the first'),
  a_overlaps: listTest('whether two lists have a member in common'),
} as const satisfies Readonly<Record<string, Signature>>;

export type FunctionName = keyof typeof functions;

/** The signature of a function; undefined for names that are none. */
export function signatureOf(name: string): Signature | undefined {
  return Object.hasOwn(functions, name) ? functions[name as FunctionName] : undefined;
}

/** Functions that `check` resolves itself, with their meaning. */
export const resolvedFunctions: Readonly<Record<string, string>> = {
  today: "today's date, in UTC",
  now: 'this moment',
  ago: "the moment so long ago, as an ISO 8601 duration: AGO('P7D')",
  selected:
    "whether the row is one of these keys, each as in the address of a row: SELECTED('17', '18')",
  has: 'whether any row of a referring table meets a condition: HAS(passages, toll > 100)',
  count: 'how many rows of a referring table meet a condition: COUNT(passages, toll > 100)',
};
