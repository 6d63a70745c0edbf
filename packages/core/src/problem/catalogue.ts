/**
 * Every problem's status, wording and explanation, in one place. The wording never repeats a
 * value that was to be compared: the position shows it, and values may be private.
 */
interface Entry<Facts> {
  /** HTTP status of an answer that holds this problem. */
  readonly status: 400 | 404 | 413;
  readonly message: (facts: Facts) => string;
  readonly hint?: (facts: Facts) => string | undefined;
  /** For the documentation: a request that has it. */
  readonly example: string;
  /** For the documentation: what to do about it. */
  readonly mend: string;
}

const entry = <Facts>(one: Entry<Facts>): Entry<Facts> => one;

const meant = ({ near }: { near?: string | undefined }): string | undefined =>
  near === undefined ? undefined : `Did you mean ${near}?`;

export const catalogue = {
  'unknown-parameter': entry<{ name: string; near?: string | undefined; known: string }>({
    status: 400,
    message: ({ name }) => `There is no parameter ${name} here.`,
    hint: (facts) => meant(facts) ?? `Known here: ${facts.known}.`,
    example: '?fliter=toll > 100',
    mend: 'Use one of the parameters that the path knows.',
  }),
  'repeated-parameter': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The parameter ${name} is given more than once.`,
    hint: () => 'Give it once; lists are separated by commas, conditions joined by AND.',
    example: '?sort=toll&sort=id',
    mend: 'Give each parameter once.',
  }),
  'malformed-escape': entry<object>({
    status: 400,
    message: () => 'A percent sign here does not begin a valid UTF-8 escape.',
    hint: () => 'Write a literal % as %25.',
    example: '?filter=note LIKE %zz',
    mend: 'Percent-encode parameter values, as encodeURIComponent does.',
  }),
  'parameter-too-long': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `This parameter is longer than ${most} characters.`,
    example: '?filter=… (20,000 characters)',
    mend: 'Ask a shorter question.',
  }),
  'forbidden-character': entry<object>({
    status: 400,
    message: () => 'Text cannot hold the NUL character or half of a surrogate pair.',
    example: "?filter=note = '%00'",
    mend: 'Leave the character out.',
  }),
  'conflicting-parameters': entry<{ names: string }>({
    status: 400,
    message: ({ names }) => `Only one of ${names} can say where to begin.`,
    hint: () => 'Keep one of them.',
    example: '?page=3&offset=100',
    mend: 'Give at most one of page, offset, after and before.',
  }),
  'nothing-searchable': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `The table ${table} has no column that can be searched.`,
    example: '/tables/tolls/rows?search=heron (a table of numbers)',
    mend: 'Use a filter, or name columns to search in the configuration.',
  }),
  'malformed-body': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The body of the request is not ${expected}.`,
    example: 'POST /tables/passages/query with the body [1]',
    mend: 'Send a JSON object whose members are named like the parameters.',
  }),
  'repeated-member': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The member ${name} stands here twice.`,
    hint: () => 'Which of them counts is not said anywhere (RFC 8259, section 4). Keep one.',
    example: 'POST /tables/passages/query with {"limit":1,"limit":2}',
    mend: 'Give each member of a JSON object once.',
  }),
  'explain-not-allowed': entry<object>({
    status: 400,
    message: () => 'Explanations are not given here.',
    hint: () => 'They are given on loopback, or where the service is started with --explain.',
    example: '?explain=true (on a public address)',
    mend: 'Ask without explain.',
  }),
  'malformed-cursor': entry<object>({
    status: 400,
    message: () => 'This is not a cursor of this table.',
    hint: () => 'Take next or previous from an answer, unchanged.',
    example: '?after=xyz',
    mend: 'Begin again without a cursor.',
  }),
  'cursor-of-another-sort': entry<object>({
    status: 400,
    message: () => 'This cursor belongs to another sort.',
    hint: () => 'A cursor goes with the sort, and the place of nulls, of the answer it came in.',
    example: '?sort=toll&after=… (from an answer sorted by id)',
    mend: 'Use the sort the cursor was made for, or begin again.',
  }),
  'cursor-row-gone': entry<object>({
    status: 400,
    message: () => 'The row that this cursor stands at is gone.',
    hint: () => 'A cursor over long values holds the key alone: its place went with the row.',
    example: '?sort=image&after=… (of a row that was deleted since)',
    mend: 'Begin again without a cursor, or go on by page or offset.',
  }),
  'cursor-needs-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) =>
      `The table ${table} has no key, so that no place beside a row is certain.`,
    hint: () => 'Page by offset.',
    example: '/tables/log/rows?after=…',
    mend: 'Use page or offset, or give the table a primary key.',
  }),
  'not-a-whole-number': entry<{ least: number; most: number }>({
    status: 400,
    message: ({ least, most }) => `Here a whole number from ${least} to ${most} is expected.`,
    example: '?limit=many',
    mend: 'Write digits only, within the range.',
  }),
  'not-one-of': entry<{ allowed: string; near?: string | undefined }>({
    status: 400,
    message: ({ allowed }) => `Here one of ${allowed} is expected.`,
    hint: meant,
    example: '?total=maybe',
    mend: 'Use one of the words listed.',
  }),
  'empty-list-item': entry<object>({
    status: 400,
    message: () => 'A name is missing between commas.',
    example: '?columns=id,,toll',
    mend: 'Remove the extra comma.',
  }),
  'repeated-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `The column ${name} is named twice.`,
    hint: () => 'Remove the second.',
    example: '?columns=id,toll,id',
    mend: 'Name each column once in a list.',
  }),
  'unknown-table': entry<{ name: string; near?: string | undefined }>({
    status: 404,
    message: ({ name }) => `There is no table ${name} here.`,
    hint: meant,
    example: '/tables/pasages',
    mend: 'Use a name that /tables lists.',
  }),
  'unknown-column': entry<{ name: string; table: string; near?: string | undefined }>({
    status: 400,
    message: ({ name, table }) => `The table ${table} has no column ${name}.`,
    hint: meant,
    example: '?columns=tol',
    mend: 'Use a name from the description of the table. Letter case counts.',
  }),
  'too-many-related': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `One question reaches over at most ${most} foreign keys.`,
    example: '?columns=… (columns of sixty related tables)',
    mend: 'Ask for fewer related columns at once.',
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
    example: '?filter=HAS(pasages, toll > 100)',
    mend: 'Use the name of a relationship to many that the description lists.',
  }),
  'not-sortable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) has no order to sort by.`,
    example: '?sort=details',
    mend: 'Sort by a column whose description says sortable.',
  }),
  'not-filterable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) cannot be used in a filter.`,
    example: "?filter=position = '(1,2)'",
    mend: 'Filter by a column whose description says filterable.',
  }),
  'unexpected-token': entry<{ found: string; expected: string }>({
    status: 400,
    message: ({ found, expected }) => `Expected ${expected}, found ${found}.`,
    example: '?filter=toll > > 100',
    mend: 'Read the filter up to the place named; the grammar is in the reference.',
  }),
  'unexpected-end': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The text ends where ${expected} is expected.`,
    example: '?filter=toll >',
    mend: 'Complete the condition.',
  }),
  'stray-character': entry<{ hint?: string | undefined }>({
    status: 400,
    message: () => 'This character has no meaning in a filter.',
    hint: ({ hint }) => hint,
    example: '?filter=toll == 3',
    mend: "Put text in single quotes ('…') and odd names in double quotes.",
  }),
  'unclosed-quote': entry<{ quote: string }>({
    status: 400,
    message: ({ quote }) => `The quote ${quote} opened here is never closed.`,
    hint: ({ quote }) => `Close it with ${quote}; inside, write it twice: ${quote}${quote}.`,
    example: "?filter=status = 'disputed",
    mend: 'Close the quote.',
  }),
  'nested-too-deep': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `The filter is nested more than ${most} levels deep.`,
    example: '?filter=((((…))))',
    mend: 'Use fewer parentheses; AND and OR need none among their own kind.',
  }),
  'too-many-parts': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `The filter has more than ${most} parts: columns, values and conditions.`,
    hint: () => 'Many values of one column are one part each in a list: IN (…).',
    example: '?filter=id = 1 OR id = 2 OR … (20,000 conditions)',
    mend: 'Use IN, or ask in several requests.',
  }),
  'too-many-members': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `A list can hold at most ${most} members.`,
    example: '?filter=id IN (1, 2, 3, …)',
    mend: 'Ask in several requests.',
  }),
  'null-literal': entry<object>({
    status: 400,
    message: () => 'NULL is not a value that can be compared.',
    hint: () => 'Write IS NULL or IS NOT NULL.',
    example: '?filter=toll = NULL',
    mend: 'Write toll IS NULL.',
  }),
  'not-a-condition': entry<{ found: string }>({
    status: 400,
    message: ({ found }) => `A condition is expected here, this is ${found}.`,
    hint: () => "Compare it with something, such as = 'x' or > 5.",
    example: '?filter=toll',
    mend: 'Compare the value with another. Only a boolean column is a condition alone.',
  }),
  'not-a-value': entry<object>({
    status: 400,
    message: () => 'A column or a value is expected here, this is a condition.',
    example: '?filter=(a = 1) = 2',
    mend: 'Compare columns and values, join conditions by AND and OR.',
  }),
  'type-mismatch': entry<{ expected: string; found: string; hint?: string | undefined }>({
    status: 400,
    message: ({ expected, found }) => `Expected ${expected} here, found ${found}.`,
    hint: ({ hint }) => hint,
    example: "?filter=toll > 'high'",
    mend: 'Compare like with like: numbers bare, text in single quotes, dates as DATE(…).',
  }),
  'not-comparable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `The column ${name} (${type}) can only be tested by IS NULL.`,
    example: "?filter=details = 'x'",
    mend: 'Use IS NULL or IS NOT NULL.',
  }),
  'invalid-value': entry<{ type: string; notation: string }>({
    status: 400,
    message: ({ type }) => `This is not a valid ${type}.`,
    hint: ({ notation }) => `Write it as ${notation}.`,
    example: "?filter=passed_at > DATE('2023-02-30')",
    mend: 'Use a value that exists, in the notation named.',
  }),
  'unknown-enum-value': entry<{ type: string; near?: string | undefined; allowed: string }>({
    status: 400,
    message: ({ type }) => `This is not one of the values of ${type}.`,
    hint: (facts) => meant(facts) ?? `Allowed: ${facts.allowed}.`,
    example: "?filter=status = 'dispute'",
    mend: 'Use one of the values that the description lists.',
  }),
  'number-out-of-range': entry<{ least: string; most: string }>({
    status: 400,
    message: ({ least, most }) => `This number lies outside ${least} to ${most}.`,
    example: '?filter=wait_minutes = 99999999999',
    mend: "Use a number that the column's type can hold.",
  }),
  'unknown-function': entry<{ name: string; near?: string | undefined; known: string }>({
    status: 400,
    message: ({ name }) => `There is no function ${name}.`,
    hint: (facts) => meant(facts) ?? `Known: ${facts.known}.`,
    example: "?filter=caseless(name) = 'x'",
    mend: 'Use one of the functions of the reference.',
  }),
  'needs-unicode': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `${name} needs a database that keeps its texts in UTF-8; this one does not.`,
    example: "?filter=CASEI(name) = CASEI('x') (over a database in LATIN1)",
    mend: 'Compare without the function, or search: that ignores letter case as well.',
  }),
  'wrong-argument-count': entry<{ name: string; expected: number; found: number }>({
    status: 400,
    message: ({ name, expected, found }) => `${name} takes ${expected}, here are ${found}.`,
    example: "?filter=CASEI(name, 'x') = 'x'",
    mend: 'Give the function as many arguments as it takes.',
  }),
  'invalid-bin': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `The width of a bin is ${expected}.`,
    example: '?group=bin(toll, 0)',
    mend: 'Write a number above zero for numbers, and one of the durations listed for times.',
  }),
  'unknown-time-zone': entry<object>({
    status: 400,
    message: () => 'This is not the name of a time zone.',
    hint: () => "Write UTC or a name such as 'Europe/Paris'.",
    example: "?group=hour(passed_at, 'CEST')",
    mend: 'Use a name of the IANA time zone database.',
  }),
  'not-groupable': entry<{ name: string; type: string }>({
    status: 400,
    message: ({ name, type }) => `Rows cannot be grouped by ${name} (${type}).`,
    hint: () => 'Take a column whose description says groupable, or a function of one.',
    example: '?group=note',
    mend: 'Group by a column whose description says groupable.',
  }),
  'group-without-column': entry<object>({
    status: 400,
    message: () => 'Rows are grouped by a column, or by a function of one.',
    example: '?group=3',
    mend: 'Name a column.',
  }),
  'missing-group': entry<object>({
    status: 400,
    message: () => 'Nothing says what the rows are grouped by.',
    hint: () => 'Name the levels: group=status or group=lock.canal.name,month(passed_at).',
    example: '/tables/passages/groups (without group)',
    mend: 'Give the parameter group.',
  }),
  'too-many-levels': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `Rows are grouped by at most ${most} levels.`,
    example: '?group=… (nine columns)',
    mend: 'Leave levels out; the rows of the last one can be read as rows.',
  }),
  'repeated-term': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `${name} is named twice.`,
    hint: () => 'Remove the second.',
    example: '?group=status,status',
    mend: 'Name each level and each aggregate once.',
  }),
  'path-too-long': entry<{ most: number }>({
    status: 400,
    message: ({ most }) =>
      most === 0
        ? 'A single level lies in no other: there is nothing to name here.'
        : `These levels have at most ${most} above the last one.`,
    hint: () => 'The path names the groups that lie above the level asked for.',
    example: '?group=status,lock_id&path=["disputed",3]',
    mend: 'Give fewer values than there are levels.',
  }),
  'unknown-aggregate': entry<{ near?: string | undefined; known: string }>({
    status: 400,
    message: () => 'This is not an aggregate.',
    hint: (facts) => meant(facts) ?? `Known: ${facts.known}.`,
    example: '?aggregate=total(toll)',
    mend: 'Use one of the aggregates of the reference.',
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
    example: '?aggregate=sum(note)',
    mend: 'Use an aggregate that the description of the column lists.',
  }),
  'too-many-aggregates': entry<{ most: number }>({
    status: 400,
    message: ({ most }) => `One request asks for at most ${most} aggregates.`,
    example: '?aggregate=… (thirty)',
    mend: 'Ask in several requests.',
  }),
  'not-a-group-sort': entry<{ name: string; known: string }>({
    status: 400,
    message: ({ name }) => `Groups cannot be sorted by ${name}.`,
    hint: ({ known }) => `They are sorted by their value or by an aggregate: ${known}.`,
    example: '/tables/passages/groups?group=status&sort=id',
    mend: 'Sort by a level of the grouping, or by an aggregate such as -count().',
  }),
  'sort-needs-column': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Rows are sorted by columns; ${name} is none.`,
    example: '/tables/passages/rows?sort=-sum(toll)',
    mend: 'Name a column, or ask for groups.',
  }),
  'no-histogram': entry<{ name: string }>({
    status: 400,
    message: ({ name }) => `Values of ${name} have no distances, and so no histogram.`,
    example: '/tables/passages/values/status?bins=20',
    mend: 'Ask for bins of numbers, dates and timestamps only.',
  }),
  'pattern-not-literal': entry<object>({
    status: 400,
    message: () => 'LIKE needs a pattern in single quotes.',
    hint: () => '% stands for any text, _ for one character, \\ before them means themselves.',
    example: '?filter=note LIKE status',
    mend: 'Write the pattern as text.',
  }),
  'pattern-ends-in-escape': entry<object>({
    status: 400,
    message: () => 'The pattern ends in a single \\, which must be followed by a character.',
    hint: () => 'Write \\\\ for a backslash.',
    example: "?filter=note LIKE '50\\\\\\'",
    mend: 'Double the backslash.',
  }),
  'malformed-key': entry<{ expected: string; found: number }>({
    status: 400,
    message: ({ expected, found }) => `The key here is (${expected}); ${found} parts were given.`,
    hint: () => 'Join the parts by commas, each percent-encoded.',
    example: '/tables/fees/rows/3',
    mend: 'Give one part per key column.',
  }),
  'no-key': entry<{ table: string }>({
    status: 400,
    message: ({ table }) => `The table ${table} has no key, so that a single row has no address.`,
    hint: () => 'Page through its rows, or give it a primary key.',
    example: '/tables/log/rows/1',
    mend: 'Add a primary key or a unique index on columns that are NOT NULL.',
  }),
  'unknown-row': entry<{ table: string }>({
    status: 404,
    message: ({ table }) => `The table ${table} has no row with this key.`,
    example: '/tables/passages/rows/0',
    mend: 'The row may have been deleted.',
  }),
} as const;

export type ProblemCode = keyof typeof catalogue;

/** The facts that a code's wording needs. */
export type ProblemFacts<Code extends ProblemCode> =
  (typeof catalogue)[Code] extends Entry<infer Facts> ? Facts : never;
