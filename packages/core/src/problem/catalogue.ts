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
    message: ({ name }) => `Unknown parameter ${name}.`,
    hint: (facts) => meant(facts) ?? `Known parameters: ${facts.known}.`,
  }),
  'repeated-parameter': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The parameter ${name} is given more than once.`,
    hint: () => 'Give it once; lists are separated by commas, conditions joined by AND.',
  }),
  'malformed-escape': entry<object>({
    status: 400,
    message: () => 'This percent sign does not start a valid UTF-8 escape.',
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
    message: ({ names }) => `Only one of ${names} can set the start.`,
    hint: () => 'Keep one of them.',
  }),
  'relevance-needs-search': entry<object>({
    status: 400,
    message: () => 'Sorting by relevance needs a full-text search.',
    hint: () => 'Search a table that has fullText in its configuration, or sort by a column.',
  }),
  'nothing-searchable': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `Table ${table} has no searchable column.`,
  }),
  'malformed-body': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The request body is not ${expected}.`,
  }),
  ...viewProblems,
  'export-too-long': entry<{ most: number; rows: number }>({
    status: 413,
    message: ({ most, rows }) => `An export has at most ${most} rows; this one has ${rows}.`,
  }),
  'repeated-member': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Duplicate member ${name}.`,
    hint: () => 'JSON does not define which one counts (RFC 8259, section 4). Remove one.',
  }),
  'explain-not-allowed': entry<object>({
    status: 400,
    message: () => 'Query plans are not available here.',
    hint: () => 'They are available on loopback, or if the service runs with --explain.',
  }),
  'malformed-cursor': entry<object>({
    status: 400,
    message: () => 'This cursor is not valid for this table.',
    hint: () => 'Use next or previous from an answer, unchanged.',
  }),
  'no-records': entry<object>({
    status: 400,
    message: () => 'The service cannot store this: it runs without records.',
    hint: () =>
      'Start it with --records. Without records, a selection is a filter or at most 1,000 keys.',
  }),
  'no-caller': entry<object>({
    status: 400,
    message: () => 'This belongs to a caller, and the access rules name no caller.',
    hint: () => 'Return `caller` from the access function.',
  }),
  'unknown-selection': entry<object>({
    status: 404,
    message: () => 'This selection does not exist, or you may not see it.',
    hint: () => 'Unused selections are deleted after 30 days. Create it again.',
  }),
  'nested-selection': entry<object>({
    status: 400,
    message: () => 'A stored selection cannot refer to another stored selection.',
    hint: () => 'Use its keys or its own filter instead.',
  }),
  'selection-of-another-table': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `This selection belongs to table ${table}.`,
    hint: () => 'Use it in queries of that table.',
  }),
  'selection-outdated': entry<{ message: string }>({
    status: 400,
    message: ({ message }) => `The selection no longer fits the table: ${message}`,
    hint: () => 'The table has changed. Create the selection again.',
  }),
  'cursor-of-another-sort': entry<object>({
    status: 400,
    message: () => 'This cursor belongs to another sort.',
    hint: () => 'Use the sort and the nulls order of the answer that returned the cursor.',
  }),
  'cursor-row-gone': entry<object>({
    status: 400,
    message: () => 'The row of this cursor no longer exists.',
    hint: () => 'Start again without a cursor, or page by offset.',
  }),
  'cursor-needs-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `Table ${table} has no key, so it has no cursors.`,
    hint: () => 'Page by offset.',
  }),
  'not-a-whole-number': entry<{ least: number; most: number }>({
    status: 400,
    message: ({ least, most }) => `Expected a whole number from ${least} to ${most}.`,
  }),
  'not-one-of': entry<{ allowed: string; near?: string | undefined }>({
    status: 400,
    message: ({ allowed }) => `Expected one of ${allowed}.`,
    hint: meant,
  }),
  'empty-list-item': entry<object>({
    status: 400,
    message: () => 'A name is missing between two commas.',
  }),
  'repeated-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Column ${name} is listed twice.`,
    hint: () => 'Remove the second.',
  }),
  'unknown-table': entry<{ name: string; near?: string | undefined }>({
    status: 404,
    message: ({ name }) => `Unknown table ${name}.`,
    hint: meant,
  }),
  'unknown-column': entry<{ name: string; table: string; near?: string | undefined }>({
    status: 400,
    message: ({ name, table }) => `Unknown column ${name} in table ${table}.`,
    hint: meant,
  }),
  'too-many-related': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A query follows at most ${most} foreign keys.`,
  }),
  'unknown-relationship': entry<{
    name: string;
    table: string;
    near?: string | undefined;
    known: string;
  }>({
    status: 400,
    message: ({ name, table }) => `No table ${name} references ${table}.`,
    hint: (facts) => meant(facts) ?? `Referencing tables: ${facts.known}.`,
  }),
  'not-sortable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Column ${name} (${type}) cannot be sorted.`,
  }),
  'not-filterable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Column ${name} (${type}) cannot be filtered.`,
  }),
  'unexpected-token': entry<{ found: string; expected: string }>({
    status: 400,
    message: ({ found, expected }) => `Expected ${expected}, found ${found}.`,
  }),
  'unexpected-end': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The text ends too early: expected ${expected}.`,
  }),
  'unexpected-character': entry<{ hint?: string | undefined }>({
    status: 400,
    message: () => 'Unexpected character in the filter.',
    hint: ({ hint }) => hint,
  }),
  'unclosed-quote': entry<{ quote: string }>({
    status: 400,
    message: ({ quote }) => `The quote ${quote} is not closed.`,
    hint: ({ quote }) =>
      `Close it with ${quote}. Inside the text, write it twice: ${quote}${quote}.`,
  }),
  'nested-too-deep': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `The filter is nested more than ${most} levels deep.`,
  }),
  'too-many-parts': entry<{ most: number }>({
    status: 413,
    message: ({ most }) =>
      `The filter has more than ${most} parts: columns, values and conditions.`,
    hint: () => 'For many values of one column, use IN (…).',
  }),
  'too-many-members': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A list has at most ${most} members.`,
  }),
  'null-literal': entry<object>({
    status: 400,
    message: () => 'NULL cannot be compared.',
    hint: () => 'Use IS NULL or IS NOT NULL.',
  }),
  'not-a-condition': entry<{ found: string }>({
    status: 400,
    message: ({ found }) => `Expected a condition, found ${found}.`,
    hint: () => "Add a comparison, such as = 'x' or > 5.",
  }),
  'not-a-value': entry<object>({
    status: 400,
    message: () => 'Expected a column or a value, found a condition.',
  }),
  'type-mismatch': entry<{ expected: string; found: string; hint?: string | undefined }>({
    status: 400,
    message: ({ expected, found }) => `Expected ${expected}, found ${found}.`,
    hint: ({ hint }) => hint,
  }),
  'not-comparable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Column ${name} (${type}) supports only IS NULL.`,
  }),
  'invalid-value': entry<{ type: string; notation: string }>({
    status: 400,
    message: ({ type }) => `Not a valid ${type}.`,
    hint: ({ notation }) => `Write it as ${notation}.`,
  }),
  'unknown-enum-value': entry<{ type: string; near?: string | undefined; allowed: string }>({
    status: 400,
    message: ({ type }) => `Not a value of ${type}.`,
    hint: (facts) => meant(facts) ?? `Allowed: ${facts.allowed}.`,
  }),
  'number-out-of-range': entry<{ least: string; most: string }>({
    status: 400,
    message: ({ least, most }) => `The number is not between ${least} and ${most}.`,
  }),
  'unknown-function': entry<{ name: string; near?: string | undefined; known: string }>({
    status: 400,
    message: ({ name }) => `Unknown function ${name}.`,
    hint: (facts) => meant(facts) ?? `Known functions: ${facts.known}.`,
  }),
  'needs-unicode': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `${name} needs a database with encoding UTF-8.`,
  }),
  'wrong-argument-count': entry<{ name: string; expected: number; found: number }>({
    status: 400,
    message: ({ name, expected, found }) => `${name} takes ${expected}, found ${found}.`,
  }),
  'invalid-bin': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The bin width must be ${expected}.`,
  }),
  'unknown-time-zone': entry<object>({
    status: 400,
    message: () => 'Unknown time zone.',
    hint: () => "Use UTC or a name such as 'Europe/Paris'.",
  }),
  'not-groupable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Column ${name} (${type}) cannot be grouped.`,
    hint: () => 'Use a column whose description says groupable, or a function of one.',
  }),
  'group-without-column': entry<object>({
    status: 400,
    message: () => 'A group needs a column, or a function of one.',
  }),
  'missing-group': entry<object>({
    status: 400,
    message: () => 'The parameter group is missing.',
    hint: () => 'Name the levels: group=status or group=lock.canal.name,month(passed_at).',
  }),
  'too-many-levels': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A query has at most ${most} group levels.`,
  }),
  'repeated-term': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `${name} is listed twice.`,
    hint: () => 'Remove the second.',
  }),
  'path-too-long': entry<{ most: number }>({
    status: 400,
    message: ({ most }) =>
      most === 0
        ? 'A single group level has no path.'
        : `The path has at most ${most} values here.`,
    hint: () => 'The path has one value for each level above the requested one.',
  }),
  'unknown-aggregate': entry<{ near?: string | undefined; known: string }>({
    status: 400,
    message: () => 'Unknown aggregate.',
    hint: (facts) => meant(facts) ?? `Known aggregates: ${facts.known}.`,
  }),
  'not-aggregable': entry<{
    name: string;
    aggregate: string;
    type: string;
    allowed?: string | undefined;
  }>({
    status: 400,
    message: ({ name, aggregate, type }) =>
      `Column ${name} (${type}) has no aggregate ${aggregate}.`,
    hint: ({ allowed }) => (allowed === undefined ? undefined : `Allowed: ${allowed}.`),
  }),
  'too-many-aggregates': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A request has at most ${most} aggregates.`,
  }),
  'not-a-group-sort': entry<{ name: string; known: string }>({
    status: 400,
    message: ({ name }) => `Groups cannot be sorted by ${name}.`,
    hint: ({ known }) => `Sort by a group level or by an aggregate: ${known}.`,
  }),
  'sort-needs-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Rows are sorted by columns; ${name} is not a column.`,
  }),
  'no-histogram': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Column ${name} has no histogram: its type is not numeric or temporal.`,
  }),
  'pattern-not-literal': entry<object>({
    status: 400,
    message: () => 'LIKE needs a pattern in single quotes.',
    hint: () => '% matches any text, _ one character. Escape them with \\.',
  }),
  'pattern-ends-in-escape': entry<object>({
    status: 400,
    message: () => 'The pattern ends with a single \\.',
    hint: () => 'Write \\\\ for a backslash.',
  }),
  'malformed-key': entry<{ expected: string; found: number }>({
    status: 400,
    message: ({ expected, found }) => `The key is (${expected}), found ${found} parts.`,
    hint: () => 'Separate the parts with commas and percent-encode each part.',
  }),
  'no-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `Table ${table} has no key, so its rows have no address.`,
    hint: () => 'Page through its rows, or add a primary key.',
  }),
  'unknown-row': entry<{ table: string }>({
    status: 404,
    message: ({ table }) => `Table ${table} has no row with this key.`,
  }),
  'not-implemented': entry<{ what: string }>({
    status: 501,
    message: ({ what }) => `Not supported: ${what}.`,
  }),
  ...changeProblems,
} as const;

export type ProblemCode = keyof typeof catalogue;

/** The facts that a code's wording needs. */
export type ProblemFacts<Code extends ProblemCode> =
  (typeof catalogue)[Code] extends Entry<infer Facts> ? Facts : never;
