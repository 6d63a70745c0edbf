import { changeProblems } from './change-problems.ts';
import { entry, meant, type Entry } from './entry.ts';
import { viewProblems } from './view-problems.ts';

/**
 * Every problem's status and wording, in one place; what the documentation says of them stands in
 * `documentation.ts`, so that no page has to load it. The wording never repeats a
 * value that was to be compared: the position shows it, and values may be private.
 */
export const catalogue = {
  'unknown-parameter': entry<{ name: string; near?: string | undefined; known: string }>({
    status: 400,
    message: ({ name }) => `There is no parameter ${name} here.`,
    hint: (facts) => meant(facts) ?? `Known here: ${facts.known}.`,
  }),
  'repeated-parameter': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The parameter ${name} is given more than once.`,
    hint: () => 'Give it once; lists are separated by commas, conditions joined by AND.',
  }),
  'malformed-escape': entry<object>({
    status: 400,
    message: () => 'A percent sign here does not begin a valid UTF-8 escape.',
    hint: () => 'Write a literal % as %25.',
  }),
  'parameter-too-long': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `This parameter is longer than ${most} characters.`,
  }),
  'forbidden-character': entry<object>({
    status: 400,
    message: () => 'Text cannot hold the NUL character or half of a surrogate pair.',
  }),
  'conflicting-parameters': entry<{ names: string }>({
    status: 400,
    message: ({ names }) => `Only one of ${names} can say where to begin.`,
    hint: () => 'Keep one of them.',
  }),
  'relevance-needs-search': entry<object>({
    status: 400,
    message: () => 'Rows have a relevance only to a search by words of a language.',
    hint: () => 'Search for something, in a table with a fullText; or sort by a column.',
  }),
  'nothing-searchable': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `The table ${table} has no column that can be searched.`,
  }),
  'malformed-body': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The body of the request is not ${expected}.`,
  }),
  ...viewProblems,
  'export-too-long': entry<{ most: number; rows: number }>({
    status: 413,
    message: ({ most, rows }) => `A file has at most ${most} rows; these are ${rows}.`,
  }),
  'repeated-member': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The member ${name} stands here twice.`,
    hint: () => 'Which of them counts is not said anywhere (RFC 8259, section 4). Keep one.',
  }),
  'explain-not-allowed': entry<object>({
    status: 400,
    message: () => 'Explanations are not given here.',
    hint: () => 'They are given on loopback, or where the service is started with --explain.',
  }),
  'malformed-cursor': entry<object>({
    status: 400,
    message: () => 'This is not a cursor of this table.',
    hint: () => 'Take next or previous from an answer, unchanged.',
  }),
  'no-records': entry<object>({
    status: 400,
    message: () => 'Nothing is kept here: the service has no place for records.',
    hint: () =>
      'Start it with --records. Without it a selection is a condition, or names at most 1,000 keys.',
  }),
  'no-caller': entry<object>({
    status: 400,
    message: () => 'This belongs to its caller, and the rules of access name none.',
    hint: () => 'Give `caller` with the access of a request.',
  }),
  'unknown-selection': entry<object>({
    status: 404,
    message: () => 'There is no such selection for you, or none any more.',
    hint: () => 'Selections that nobody uses for 30 days are dropped. Make it anew.',
  }),
  'nested-selection': entry<object>({
    status: 400,
    message: () => 'A kept selection cannot stand in the condition of another one.',
    hint: () =>
      'One of them would be dropped before the other. Name its keys, or its own condition.',
  }),
  'selection-of-another-table': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `This selection holds rows of ${table}.`,
    hint: () => 'Use it in questions about that table.',
  }),
  'selection-outdated': entry<{ message: string }>({
    status: 400,
    message: ({ message }) => `The selection no longer fits the table: ${message}`,
    hint: () => 'The table has changed since. Make the selection anew.',
  }),
  'cursor-of-another-sort': entry<object>({
    status: 400,
    message: () => 'This cursor belongs to another sort.',
    hint: () => 'A cursor goes with the sort, and the place of nulls, of the answer it came in.',
  }),
  'cursor-row-gone': entry<object>({
    status: 400,
    message: () => 'The row that this cursor stands at is gone.',
    hint: () => 'A cursor over long values holds the key alone: its place went with the row.',
  }),
  'cursor-needs-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) =>
      `The table ${table} has no key, so that no place anchor a row is certain.`,
    hint: () => 'Page by offset.',
  }),
  'not-a-whole-number': entry<{ least: number; most: number }>({
    status: 400,
    message: ({ least, most }) => `Here a whole number from ${least} to ${most} is expected.`,
  }),
  'not-one-of': entry<{ allowed: string; near?: string | undefined }>({
    status: 400,
    message: ({ allowed }) => `Here one of ${allowed} is expected.`,
    hint: meant,
  }),
  'empty-list-item': entry<object>({
    status: 400,
    message: () => 'A name is missing between commas.',
  }),
  'repeated-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The column ${name} is named twice.`,
    hint: () => 'Remove the second.',
  }),
  'unknown-table': entry<{ name: string; near?: string | undefined }>({
    status: 404,
    message: ({ name }) => `There is no table ${name} here.`,
    hint: meant,
  }),
  'unknown-column': entry<{ name: string; table: string; near?: string | undefined }>({
    status: 400,
    message: ({ name, table }) => `The table ${table} has no column ${name}.`,
    hint: meant,
  }),
  'too-many-related': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `One question reaches over at most ${most} foreign keys.`,
  }),
  'unknown-relationship': entry<{
    name: string;
    table: string;
    near?: string | undefined;
    known: string;
  }>({
    status: 400,
    message: ({ name, table }) => `No table ${name} refers to ${table}.`,
    hint: (facts) => meant(facts) ?? `Referring tables: ${facts.known}.`,
  }),
  'not-sortable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) has no order to sort by.`,
  }),
  'not-filterable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) cannot be used in a filter.`,
  }),
  'unexpected-token': entry<{ found: string; expected: string }>({
    status: 400,
    message: ({ found, expected }) => `Expected ${expected}, found ${found}.`,
  }),
  'unexpected-end': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The text ends where ${expected} is expected.`,
  }),
  'stray-character': entry<{ hint?: string | undefined }>({
    status: 400,
    message: () => 'This character has no meaning in a filter.',
    hint: ({ hint }) => hint,
  }),
  'unclosed-quote': entry<{ quote: string }>({
    status: 400,
    message: ({ quote }) => `The quote ${quote} opened here is never closed.`,
    hint: ({ quote }) => `Close it with ${quote}; inside, write it twice: ${quote}${quote}.`,
  }),
  'nested-too-deep': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `The filter is nested more than ${most} levels deep.`,
  }),
  'too-many-parts': entry<{ most: number }>({
    status: 413,
    message: ({ most }) =>
      `The filter has more than ${most} parts: columns, values and conditions.`,
    hint: () => 'Many values of one column are one part each in a list: IN (…).',
  }),
  'too-many-members': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A list can hold at most ${most} members.`,
  }),
  'null-literal': entry<object>({
    status: 400,
    message: () => 'NULL is not a value that can be compared.',
    hint: () => 'Write IS NULL or IS NOT NULL.',
  }),
  'not-a-condition': entry<{ found: string }>({
    status: 400,
    message: ({ found }) => `A condition is expected here, this is ${found}.`,
    hint: () => "Compare it with something, such as = 'x' or > 5.",
  }),
  'not-a-value': entry<object>({
    status: 400,
    message: () => 'A column or a value is expected here, this is a condition.',
  }),
  'type-mismatch': entry<{ expected: string; found: string; hint?: string | undefined }>({
    status: 400,
    message: ({ expected, found }) => `Expected ${expected} here, found ${found}.`,
    hint: ({ hint }) => hint,
  }),
  'not-comparable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) can only be tested by IS NULL.`,
  }),
  'invalid-value': entry<{ type: string; notation: string }>({
    status: 400,
    message: ({ type }) => `This is not a valid ${type}.`,
    hint: ({ notation }) => `Write it as ${notation}.`,
  }),
  'unknown-enum-value': entry<{ type: string; near?: string | undefined; allowed: string }>({
    status: 400,
    message: ({ type }) => `This is not one of the values of ${type}.`,
    hint: (facts) => meant(facts) ?? `Allowed: ${facts.allowed}.`,
  }),
  'number-out-of-range': entry<{ least: string; most: string }>({
    status: 400,
    message: ({ least, most }) => `This number lies outside ${least} to ${most}.`,
  }),
  'unknown-function': entry<{ name: string; near?: string | undefined; known: string }>({
    status: 400,
    message: ({ name }) => `There is no function ${name}.`,
    hint: (facts) => meant(facts) ?? `Known: ${facts.known}.`,
  }),
  'needs-unicode': entry<{ name: string }>({
    status: 400,
    message: ({ name }) =>
      `${name} needs a database that keeps its texts in UTF-8; this one does not.`,
  }),
  'wrong-argument-count': entry<{ name: string; expected: number; found: number }>({
    status: 400,
    message: ({ name, expected, found }) => `${name} takes ${expected}, here are ${found}.`,
  }),
  'invalid-bin': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The width of a bin is ${expected}.`,
  }),
  'unknown-time-zone': entry<object>({
    status: 400,
    message: () => 'This is not the name of a time zone.',
    hint: () => "Write UTC or a name such as 'Europe/Paris'.",
  }),
  'not-groupable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Rows cannot be grouped by ${name} (${type}).`,
    hint: () => 'Take a column whose description says groupable, or a function of one.',
  }),
  'group-without-column': entry<object>({
    status: 400,
    message: () => 'Rows are grouped by a column, or by a function of one.',
  }),
  'missing-group': entry<object>({
    status: 400,
    message: () => 'Nothing says what the rows are grouped by.',
    hint: () => 'Name the levels: group=status or group=lock.canal.name,month(passed_at).',
  }),
  'too-many-levels': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `Rows are grouped by at most ${most} levels.`,
  }),
  'repeated-term': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `${name} is named twice.`,
    hint: () => 'Remove the second.',
  }),
  'path-too-long': entry<{ most: number }>({
    status: 400,
    message: ({ most }) =>
      most === 0
        ? 'A single level lies in no other: there is nothing to name here.'
        : `These levels have at most ${most} above the last one.`,
    hint: () => 'The path names the groups that lie above the level asked for.',
  }),
  'unknown-aggregate': entry<{ near?: string | undefined; known: string }>({
    status: 400,
    message: () => 'This is not an aggregate.',
    hint: (facts) => meant(facts) ?? `Known: ${facts.known}.`,
  }),
  'not-aggregable': entry<{
    name: string;
    aggregate: string;
    type: string;
    allowed?: string | undefined;
  }>({
    status: 400,
    message: ({ name, aggregate, type }) => `There is no ${aggregate} of ${name} (${type}).`,
    hint: ({ allowed }) => (allowed === undefined ? undefined : `Allowed: ${allowed}.`),
  }),
  'too-many-aggregates': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `One request asks for at most ${most} aggregates.`,
  }),
  'not-a-group-sort': entry<{ name: string; known: string }>({
    status: 400,
    message: ({ name }) => `Groups cannot be sorted by ${name}.`,
    hint: ({ known }) => `They are sorted by their value or by an aggregate: ${known}.`,
  }),
  'sort-needs-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Rows are sorted by columns; ${name} is none.`,
  }),
  'no-histogram': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Values of ${name} have no distances, and so no histogram.`,
  }),
  'pattern-not-literal': entry<object>({
    status: 400,
    message: () => 'LIKE needs a pattern in single quotes.',
    hint: () => '% stands for any text, _ for one character, \\ before them means themselves.',
  }),
  'pattern-ends-in-escape': entry<object>({
    status: 400,
    message: () => 'The pattern ends in a single \\, which must be followed by a character.',
    hint: () => 'Write \\\\ for a backslash.',
  }),
  'malformed-key': entry<{ expected: string; found: number }>({
    status: 400,
    message: ({ expected, found }) => `The key here is (${expected}); ${found} parts were given.`,
    hint: () => 'Join the parts by commas, each percent-encoded.',
  }),
  'no-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `The table ${table} has no key, so that a single row has no address.`,
    hint: () => 'Page through its rows, or give it a primary key.',
  }),
  'unknown-row': entry<{ table: string }>({
    status: 404,
    message: ({ table }) => `The table ${table} has no row with this key.`,
  }),
  'not-implemented': entry<{ what: string }>({
    status: 501,
    message: ({ what }) => `Not supported here: ${what}.`,
  }),
  ...changeProblems,
} as const;

export type ProblemCode = keyof typeof catalogue;

/** The facts that a code's wording needs. */
export type ProblemFacts<Code extends ProblemCode> =
  (typeof catalogue)[Code] extends Entry<infer Facts> ? Facts : never;
