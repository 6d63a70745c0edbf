import type { ProblemCode } from './catalogue.ts';

/** What the documentation says of a problem. */
interface Explained {
  /** A request that has it. */
  readonly example: string;
  /** What to do about it. */
  readonly mend: string;
}

/** For the documentation alone, code by code in the order of the catalogue. */
export const problemDocumentation: Readonly<Record<ProblemCode, Explained>> = {
  'unknown-parameter': {
    example: '?fliter=toll > 100',
    mend: 'Use one of the parameters that the path knows.',
  },
  'repeated-parameter': { example: '?sort=toll&sort=id', mend: 'Give each parameter once.' },
  'malformed-escape': {
    example: '?filter=note LIKE %zz',
    mend: 'Percent-encode parameter values, as encodeURIComponent does.',
  },
  'parameter-too-long': {
    example: '?filter=… (20,000 characters)',
    mend: 'Ask a shorter question.',
  },
  'forbidden-character': { example: "?filter=note = '%00'", mend: 'Leave the character out.' },
  'conflicting-parameters': {
    example: '?page=3&offset=100',
    mend: 'Give at most one of page, offset, after and before.',
  },
  'relevance-needs-search': {
    example: 'sort=-relevance without a search, or in a table without fullText',
    mend: 'Give a search, or configure fullText for the table; else sort by a column.',
  },
  'nothing-searchable': {
    example: '/tables/tolls/rows?search=heron (a table of numbers)',
    mend: 'Use a filter, or name columns to search in the configuration.',
  },
  'malformed-body': {
    example: 'POST /tables/passages/query with the body [1]',
    mend: 'Send a JSON object whose members are named like the parameters.',
  },
  'malformed-view': {
    example: '?open=["Wend Cut" in the address of a table, or a saved view of another version',
    mend: 'Leave it out: the view is then as it is by default.',
  },
  'newer-view': {
    example: '{"version":2} where views have version 1',
    mend: 'Run the newer version of the program.',
  },
  'unknown-view': { example: 'GET /views/xyz', mend: 'Take an id from GET /views.' },
  'not-your-view': {
    example: "PATCH of somebody else's shared view",
    mend: 'Keep a copy of it under a name of your own.',
  },
  'view-name-taken': {
    example: 'POST /views with a name that another of your views of the table has',
    mend: 'Give it another name, or change the one that there is.',
  },
  'view-changed': {
    example: 'PATCH with If-Match: "2" where the view has version 3 by now',
    mend: 'Read the view again, and decide anew.',
  },
  'if-match-needed': {
    example: 'PATCH /views/{id} without If-Match',
    mend: 'Send the version that you have read, in quotes.',
  },
  'view-part-hidden': {
    example: 'a shared view that is sorted by a column hidden from you',
    mend: 'Nothing needs to be done: the rest of it is shown.',
  },
  'too-many-views': { example: 'keeping a view more than 1,000', mend: 'Drop some.' },
  'export-too-long': {
    example: '/tables/passages/export?format=csv where the configuration allows 10,000 rows',
    mend: 'Narrow the condition, or take the rows out in parts: limit=10000, then offset=10000.',
  },
  'repeated-member': {
    example: 'POST /tables/passages/query with {"limit":1,"limit":2}',
    mend: 'Give each member of a JSON object once.',
  },
  'explain-not-allowed': {
    example: '?explain=true (on a public address)',
    mend: 'Ask without explain.',
  },
  'malformed-cursor': { example: '?after=xyz', mend: 'Begin again without a cursor.' },
  'no-records': {
    example: "?filter=SELECTED('kept:…') where nothing is kept",
    mend: 'Start the service with --records. Without it a selection is a condition, or names at most 1,000 keys.',
  },
  'no-caller': {
    example: 'POST /selections where the rules of access say tables, but no caller',
    mend: 'Have the function `access` of the router give `caller` as well.',
  },
  'unknown-selection': {
    example: "?filter=SELECTED('kept:…') of another caller's, or of one that was dropped",
    mend: 'Make the selection anew, as the caller who uses it.',
  },
  'nested-selection': {
    example: `POST /selections with the filter "SELECTED('kept:…')"`,
    mend: 'Give the keys, or the condition, of the other selection itself.',
  },
  'selection-of-another-table': {
    example: "/tables/boats/rows?filter=SELECTED('kept:…') with rows of passages",
    mend: 'Use a selection in questions about its own table.',
  },
  'selection-outdated': {
    example: "?filter=SELECTED('kept:…') whose condition names a column that is gone",
    mend: 'The table has changed since. Make the selection anew.',
  },
  'cursor-of-another-sort': {
    example: '?sort=toll&after=… (from an answer sorted by id)',
    mend: 'Use the sort the cursor was made for, or begin again.',
  },
  'cursor-row-gone': {
    example: '?sort=image&after=… (of a row that was deleted since)',
    mend: 'Begin again without a cursor, or go on by page or offset.',
  },
  'cursor-needs-key': {
    example: '/tables/log/rows?after=…',
    mend: 'Use page or offset, or give the table a primary key.',
  },
  'not-a-whole-number': { example: '?limit=many', mend: 'Write digits only, within the range.' },
  'not-one-of': { example: '?total=maybe', mend: 'Use one of the words listed.' },
  'empty-list-item': { example: '?columns=id,,toll', mend: 'Remove the extra comma.' },
  'repeated-column': { example: '?columns=id,toll,id', mend: 'Name each column once in a list.' },
  'unknown-table': { example: '/tables/pasages', mend: 'Use a name that /tables lists.' },
  'unknown-column': {
    example: '?columns=tol',
    mend: 'Use a name from the description of the table. Letter case counts.',
  },
  'too-many-related': {
    example: '?columns=… (columns of sixty related tables)',
    mend: 'Ask for fewer related columns at once.',
  },
  'unknown-relationship': {
    example: '?filter=HAS(pasages, toll > 100)',
    mend: 'Use the name of a relationship to many that the description lists.',
  },
  'not-sortable': {
    example: '?sort=details',
    mend: 'Sort by a column whose description says sortable.',
  },
  'not-filterable': {
    example: "?filter=position = '(1,2)'",
    mend: 'Filter by a column whose description says filterable.',
  },
  'unexpected-token': {
    example: '?filter=toll > > 100',
    mend: 'Read the filter up to the place named; the grammar is in the reference.',
  },
  'unexpected-end': { example: '?filter=toll >', mend: 'Complete the condition.' },
  'stray-character': {
    example: '?filter=toll == 3',
    mend: "Put text in single quotes ('…') and odd names in double quotes.",
  },
  'unclosed-quote': { example: "?filter=status = 'disputed", mend: 'Close the quote.' },
  'nested-too-deep': {
    example: '?filter=((((…))))',
    mend: 'Use fewer parentheses; AND and OR need none among their own kind.',
  },
  'too-many-parts': {
    example: '?filter=id = 1 OR id = 2 OR … (20,000 conditions)',
    mend: 'Use IN, or ask in several requests.',
  },
  'too-many-members': { example: '?filter=id IN (1, 2, 3, …)', mend: 'Ask in several requests.' },
  'null-literal': { example: '?filter=toll = NULL', mend: 'Write toll IS NULL.' },
  'not-a-condition': {
    example: '?filter=toll',
    mend: 'Compare the value with another. Only a boolean column is a condition alone.',
  },
  'not-a-value': {
    example: '?filter=(a = 1) = 2',
    mend: 'Compare columns and values, join conditions by AND and OR.',
  },
  'type-mismatch': {
    example: "?filter=toll > 'high'",
    mend: 'Compare like with like: numbers bare, text in single quotes, dates as DATE(…).',
  },
  'not-comparable': { example: "?filter=details = 'x'", mend: 'Use IS NULL or IS NOT NULL.' },
  'invalid-value': {
    example: "?filter=passed_at > DATE('2023-02-30')",
    mend: 'Use a value that exists, in the notation named.',
  },
  'unknown-enum-value': {
    example: "?filter=status = 'dispute'",
    mend: 'Use one of the values that the description lists.',
  },
  'number-out-of-range': {
    example: '?filter=wait_minutes = 99999999999',
    mend: "Use a number that the column's type can hold.",
  },
  'unknown-function': {
    example: "?filter=caseless(name) = 'x'",
    mend: 'Use one of the functions of the reference.',
  },
  'needs-unicode': {
    example: "?filter=CASEI(name) = CASEI('x') (over a database in LATIN1)",
    mend: 'Compare without the function, or search: that ignores letter case as well.',
  },
  'wrong-argument-count': {
    example: "?filter=CASEI(name, 'x') = 'x'",
    mend: 'Give the function as many arguments as it takes.',
  },
  'invalid-bin': {
    example: '?group=bin(toll, 0)',
    mend: 'Write a number above zero for numbers, and one of the durations listed for times.',
  },
  'unknown-time-zone': {
    example: "?group=hour(passed_at, 'CEST')",
    mend: 'Use a name of the IANA time zone database.',
  },
  'not-groupable': {
    example: '?group=note',
    mend: 'Group by a column whose description says groupable.',
  },
  'group-without-column': { example: '?group=3', mend: 'Name a column.' },
  'missing-group': {
    example: '/tables/passages/groups (without group)',
    mend: 'Give the parameter group.',
  },
  'too-many-levels': {
    example: '?group=… (nine columns)',
    mend: 'Leave levels out; the rows of the last one can be read as rows.',
  },
  'repeated-term': {
    example: '?group=status,status',
    mend: 'Name each level and each aggregate once.',
  },
  'path-too-long': {
    example: '?group=status,lock_id&path=["disputed",3]',
    mend: 'Give fewer values than there are levels.',
  },
  'unknown-aggregate': {
    example: '?aggregate=total(toll)',
    mend: 'Use one of the aggregates of the reference.',
  },
  'not-aggregable': {
    example: '?aggregate=sum(note)',
    mend: 'Use an aggregate that the description of the column lists.',
  },
  'too-many-aggregates': { example: '?aggregate=… (thirty)', mend: 'Ask in several requests.' },
  'not-a-group-sort': {
    example: '/tables/passages/groups?group=status&sort=id',
    mend: 'Sort by a level of the grouping, or by an aggregate such as -count().',
  },
  'sort-needs-column': {
    example: '/tables/passages/rows?sort=-sum(toll)',
    mend: 'Name a column, or ask for groups.',
  },
  'no-histogram': {
    example: '/tables/passages/values/status?bins=20',
    mend: 'Ask for bins of numbers, dates and timestamps only.',
  },
  'pattern-not-literal': {
    example: '?filter=note LIKE status',
    mend: 'Write the pattern as text.',
  },
  'pattern-ends-in-escape': {
    example: "?filter=note LIKE '50\\\\\\'",
    mend: 'Double the backslash.',
  },
  'malformed-key': { example: '/tables/fees/rows/3', mend: 'Give one part per key column.' },
  'no-key': {
    example: '/tables/log/rows/1',
    mend: 'Add a primary key or a unique index on columns that are NOT NULL.',
  },
  'unknown-row': { example: '/tables/passages/rows/0', mend: 'The row may have been deleted.' },
  'not-implemented': {
    example: '/odata/passages?$compute=toll mul 2 as twice',
    mend: 'Ask another way; docs/odata.md lists what of the standard there is.',
  },
  'too-many-changes': {
    example: 'POST /tables/passages/changes with 100,001 changes',
    mend: 'Send several sets.',
  },
  'not-changeable': {
    example: 'POST /tables/canals/changes where the configuration allows none',
    mend: 'Allow it in the configuration (`changes`), give the service a role that may write (--changes), and the table a key.',
  },
  'change-not-allowed': {
    example: '{"kind":"remove","key":["17"]} where only values may be changed',
    mend: 'Leave it out, or allow it: `changes: { remove: true }`.',
  },
  'column-not-writable': {
    example: '{"kind":"change","key":["17"],"values":{"id":"18"}}',
    mend: 'Leave the column out, or allow it: `changes: { change: [status] }`.',
  },
  'nothing-to-change': {
    example: '{"kind":"change","key":["17"],"values":{}}',
    mend: 'Name the values that are to be changed.',
  },
  'missing-value': {
    example: '{"kind":"change","key":["17"],"values":{"status":null}}',
    mend: 'Give a value, or leave a column with a default out of a new row.',
  },
  'text-too-long': {
    example: '{"values":{"code":"…"}} with more characters than the column holds',
    mend: 'Shorten it.',
  },
  'too-many-decimals': {
    example: '{"values":{"toll":"4.005"}} of numeric(8,2)',
    mend: 'Round it as you mean it; nothing is rounded in silence.',
  },
  'pattern-mismatch': {
    example: '{"values":{"code":"x"}} where the configuration has a `pattern`',
    mend: 'Write it as the message says.',
  },
  'breaks-rule': {
    example: '{"values":{"toll":"-1"}} where a `rule` says toll >= 0',
    mend: 'Give values that meet the rule.',
  },
  'row-twice': { example: 'two changes of the same key in one set', mend: 'Put them into one.' },
  'repeated-ref': { example: 'two additions with "ref":"a"', mend: 'Give each a name of its own.' },
  'unknown-ref': {
    example: '{"values":{"lock_id":{"ref":"b"}}} without such an addition',
    mend: 'Name an addition of the same set.',
  },
  'ref-misfit': {
    example: '{"values":{"lock_id":{"ref":"a"}}} where a is no lock',
    mend: 'Refer to an addition to the table that the column refers to.',
  },
  'circular-refs': {
    example: 'two additions that refer to each other',
    mend: 'Leave one of the values out, and change it in a second set.',
  },
  'outside-rule': {
    example: 'a change by which the caller would not see the row any more',
    mend: 'Leave the row among those that the rule allows.',
  },
  'value-taken': {
    example: 'an addition with a name that must be unique',
    mend: 'Give another value, or change the row that has it.',
  },
  'unknown-reference': {
    example: '{"values":{"lock_id":999}}',
    mend: 'Name a row that is there and that you may see.',
  },
  'still-referred': {
    example: 'a removal of a lock that passages went through',
    mend: 'Change or remove the rows that refer to it first.',
  },
  'takes-others': {
    example: 'undoing the addition of a lock that others have added passages to since',
    mend: 'Change or remove the rows that refer to it first.',
  },
  'overlaps-another': {
    example: "a booking within another one's time (an exclusion constraint)",
    mend: 'Give values that leave the other row in peace.',
  },
  'constraint-broken': {
    example: 'a value that a check of the table does not take',
    mend: "See what the constraint is about, and have it called by people's words: `messages` in the configuration.",
  },
  'value-refused': {
    example: 'a text that is no value of an unusual type, such as inet',
    mend: 'Write it as PostgreSQL reads the type.',
  },
  'refused-by-trigger': {
    example: 'a change that a trigger answers with an error',
    mend: 'See what it says: its message is shown as it is.',
  },
  'skipped-by-trigger': {
    example: 'a new row for which a trigger returns NULL',
    mend: 'Ask whoever owns the table.',
  },
  'unknown-change-set': {
    example: 'POST /changes/xyz/undo',
    mend: 'Take an id from an answer or a history.',
  },
  'already-undone': {
    example: 'POST /changes/{id}/undo twice',
    mend: 'Undo the set that undid it.',
  },
  'cannot-undo': {
    example: 'undoing a set that was saved while the history kept no values',
    mend: 'Change the rows by hand.',
  },
  'not-remembered': {
    example: 'GET /tables/passages/rows/17/history without --records',
    mend: 'Start the service with --records.',
  },
  'malformed-idempotency-key': { example: 'an empty Idempotency-Key', mend: 'Send a random UUID.' },
  'withdrawn-key': {
    example: 'a request that arrives after its caller has withdrawn it',
    mend: 'Send the set under a new Idempotency-Key.',
  },
  'key-of-another-set': {
    example: 'the same Idempotency-Key with other changes',
    mend: 'Give each set a key of its own.',
  },
};
