import type { ProblemCode } from './catalogue.ts';

/** The documentation of a problem. */
interface Explained {
  /** A request that has it. */
  readonly example: string;
  /** How to fix it. */
  readonly fix: string;
}

/** For the documentation alone, code by code in the order of the catalogue. */
export const problemDocumentation: Readonly<Record<ProblemCode, Explained>> = {
  'unknown-parameter': {
    example: '?fliter=toll > 100',
    fix: 'Use a parameter that this path supports.',
  },
  'repeated-parameter': { example: '?sort=toll&sort=id', fix: 'Give each parameter once.' },
  'malformed-escape': {
    example: '?filter=note LIKE %zz',
    fix: 'Percent-encode parameter values, as encodeURIComponent does.',
  },
  'parameter-too-long': {
    example: '?filter=… (20,000 characters)',
    fix: 'Shorten the parameter.',
  },
  'forbidden-character': { example: "?filter=note = '%00'", fix: 'Remove the character.' },
  'conflicting-parameters': {
    example: '?page=3&offset=100',
    fix: 'Give at most one of page, offset, after and before.',
  },
  'relevance-needs-search': {
    example: 'sort=-relevance without a search, or in a table without fullText',
    fix: 'Add a search, configure fullText for the table, or sort by a column.',
  },
  'nothing-searchable': {
    example: '/tables/tolls/rows?search=heron (a table of numbers)',
    fix: 'Use a filter, or name columns to search in the configuration.',
  },
  'malformed-body': {
    example: 'POST /tables/passages/query with the body [1]',
    fix: 'Send a JSON object whose members are named like the parameters.',
  },
  'malformed-view': {
    example: '?open=["Wend Cut" in the address of a table, or a saved view of another version',
    fix: 'Remove it: the view then uses the default.',
  },
  'newer-view': {
    example: '{"version":2} where views have version 1',
    fix: 'Run the newer version of the program.',
  },
  'unknown-view': { example: 'GET /views/xyz', fix: 'Use an id from GET /views.' },
  'not-your-view': {
    example: "PATCH of somebody else's shared view",
    fix: 'Save a copy under another name.',
  },
  'view-name-taken': {
    example: 'POST /views with a name that another of your views of the table has',
    fix: 'Use another name, or change the existing view.',
  },
  'view-changed': {
    example: 'PATCH with If-Match: "2" where the view has version 3 by now',
    fix: 'Read the view again, then repeat the change.',
  },
  'if-match-needed': {
    example: 'PATCH /views/{id} without If-Match',
    fix: 'Send the version that you have read, in quotes.',
  },
  'view-part-hidden': {
    example: 'a shared view that is sorted by a column hidden from you',
    fix: 'Nothing: the rest of the view is shown.',
  },
  'too-many-views': { example: 'saving the 1,001st view of a table', fix: 'Delete some.' },
  'export-too-long': {
    example: '/tables/passages/export?format=csv where the configuration allows 10,000 rows',
    fix: 'Narrow the filter, or export in parts: limit=10000, then offset=10000.',
  },
  'repeated-member': {
    example: 'POST /tables/passages/query with {"limit":1,"limit":2}',
    fix: 'Give each member of a JSON object once.',
  },
  'explain-not-allowed': {
    example: '?explain=true (on a public address)',
    fix: 'Remove explain.',
  },
  'malformed-cursor': { example: '?after=xyz', fix: 'Start again without a cursor.' },
  'no-records': {
    example: "?filter=SELECTED('stored:…') without records",
    fix: 'Start the service with --records. Without records, a selection is a filter or at most 1,000 keys.',
  },
  'no-caller': {
    example: 'POST /selections where access() returns tables, but no caller',
    fix: 'Return `caller` from the function `access` of the router.',
  },
  'unknown-selection': {
    example: "?filter=SELECTED('stored:…') of another caller, or deleted",
    fix: 'Create the selection again as the caller who uses it.',
  },
  'nested-selection': {
    example: `POST /selections with the filter "SELECTED('stored:…')"`,
    fix: 'Use the keys or the filter of the other selection.',
  },
  'selection-of-another-table': {
    example: "/tables/boats/rows?filter=SELECTED('stored:…') with rows of passages",
    fix: 'Use a selection in queries of its own table.',
  },
  'selection-outdated': {
    example: "?filter=SELECTED('stored:…') whose filter uses a dropped column",
    fix: 'Create the selection again.',
  },
  'cursor-of-another-sort': {
    example: '?sort=toll&after=… (from an answer sorted by id)',
    fix: 'Use the sort of the answer that returned the cursor, or start again.',
  },
  'cursor-row-gone': {
    example: '?sort=image&after=… (of a row that was deleted since)',
    fix: 'Start again without a cursor, or continue by page or offset.',
  },
  'cursor-needs-key': {
    example: '/tables/log/rows?after=…',
    fix: 'Use page or offset, or give the table a primary key.',
  },
  'not-a-whole-number': { example: '?limit=many', fix: 'Write digits only, within the range.' },
  'not-one-of': { example: '?total=maybe', fix: 'Use one of the words listed.' },
  'empty-list-item': { example: '?columns=id,,toll', fix: 'Remove the extra comma.' },
  'repeated-column': { example: '?columns=id,toll,id', fix: 'Name each column once in a list.' },
  'unknown-table': { example: '/tables/pasages', fix: 'Use a name that /tables lists.' },
  'unknown-column': {
    example: '?columns=tol',
    fix: 'Use a name from the description of the table. Letter case counts.',
  },
  'too-many-related': {
    example: '?columns=… (columns of sixty related tables)',
    fix: 'Request fewer related columns.',
  },
  'unknown-relationship': {
    example: '?filter=HAS(pasages, toll > 100)',
    fix: 'Use the name of a relationship to many that the description lists.',
  },
  'not-sortable': {
    example: '?sort=details',
    fix: 'Sort by a column whose description says sortable.',
  },
  'not-filterable': {
    example: "?filter=position = '(1,2)'",
    fix: 'Filter by a column whose description says filterable.',
  },
  'unexpected-token': {
    example: '?filter=toll > > 100',
    fix: 'Check the filter at the given position. The grammar is in docs/filter.md.',
  },
  'unexpected-end': { example: '?filter=toll >', fix: 'Complete the condition.' },
  'unexpected-character': {
    example: '?filter=toll == 3',
    fix: "Put text in single quotes ('…') and odd names in double quotes.",
  },
  'unclosed-quote': { example: "?filter=status = 'disputed", fix: 'Close the quote.' },
  'nested-too-deep': {
    example: '?filter=((((…))))',
    fix: 'Use fewer parentheses: chains of AND or of OR need none.',
  },
  'too-many-parts': {
    example: '?filter=id = 1 OR id = 2 OR … (20,000 conditions)',
    fix: 'Use IN, or send several requests.',
  },
  'too-many-members': { example: '?filter=id IN (1, 2, 3, …)', fix: 'Send several requests.' },
  'null-literal': { example: '?filter=toll = NULL', fix: 'Write toll IS NULL.' },
  'not-a-condition': {
    example: '?filter=toll',
    fix: 'Add a comparison. Only a boolean column is a condition by itself.',
  },
  'not-a-value': {
    example: '?filter=(a = 1) = 2',
    fix: 'Compare columns with values. Join conditions by AND or OR.',
  },
  'type-mismatch': {
    example: "?filter=toll > 'high'",
    fix: 'Match the types: numbers without quotes, text in single quotes, dates as DATE(…).',
  },
  'not-comparable': { example: "?filter=details = 'x'", fix: 'Use IS NULL or IS NOT NULL.' },
  'invalid-value': {
    example: "?filter=passed_at > DATE('2023-02-30')",
    fix: 'Use an existing value in the given notation.',
  },
  'unknown-enum-value': {
    example: "?filter=status = 'dispute'",
    fix: 'Use one of the values that the description lists.',
  },
  'number-out-of-range': {
    example: '?filter=wait_minutes = 99999999999',
    fix: "Use a number that the column's type can hold.",
  },
  'unknown-function': {
    example: "?filter=caseless(name) = 'x'",
    fix: 'Use one of the functions of the reference.',
  },
  'needs-unicode': {
    example: "?filter=CASEI(name) = CASEI('x') (over a database in LATIN1)",
    fix: 'Remove the function, or use search, which ignores case too.',
  },
  'wrong-argument-count': {
    example: "?filter=CASEI(name, 'x') = 'x'",
    fix: 'Pass the number of arguments that the function takes.',
  },
  'invalid-bin': {
    example: '?group=bin(toll, 0)',
    fix: 'Write a number above zero for numbers, and one of the durations listed for times.',
  },
  'unknown-time-zone': {
    example: "?group=hour(passed_at, 'CEST')",
    fix: 'Use a name of the IANA time zone database.',
  },
  'not-groupable': {
    example: '?group=note',
    fix: 'Group by a column whose description says groupable.',
  },
  'group-without-column': { example: '?group=3', fix: 'Name a column.' },
  'missing-group': {
    example: '/tables/passages/groups (without group)',
    fix: 'Give the parameter group.',
  },
  'too-many-levels': {
    example: '?group=… (nine columns)',
    fix: 'Remove levels. Read the rows of the last level as rows.',
  },
  'repeated-term': {
    example: '?group=status,status',
    fix: 'Name each level and each aggregate once.',
  },
  'path-too-long': {
    example: '?group=status,lock_id&path=["disputed",3]',
    fix: 'Use fewer values than levels.',
  },
  'unknown-aggregate': {
    example: '?aggregate=total(toll)',
    fix: 'Use one of the aggregates of the reference.',
  },
  'not-aggregable': {
    example: '?aggregate=sum(note)',
    fix: 'Use an aggregate that the description of the column lists.',
  },
  'too-many-aggregates': { example: '?aggregate=… (thirty)', fix: 'Send several requests.' },
  'not-a-group-sort': {
    example: '/tables/passages/groups?group=status&sort=id',
    fix: 'Sort by a level of the grouping, or by an aggregate such as -count().',
  },
  'sort-needs-column': {
    example: '/tables/passages/rows?sort=-sum(toll)',
    fix: 'Use a column, or request groups.',
  },
  'no-histogram': {
    example: '/tables/passages/values/status?bins=20',
    fix: 'Use bins for numbers, dates and timestamps only.',
  },
  'pattern-not-literal': {
    example: '?filter=note LIKE status',
    fix: 'Write the pattern as text.',
  },
  'pattern-ends-in-escape': {
    example: "?filter=note LIKE '50\\\\\\'",
    fix: 'Double the backslash.',
  },
  'malformed-key': { example: '/tables/fees/rows/3', fix: 'Give one part per key column.' },
  'no-key': {
    example: '/tables/log/rows/1',
    fix: 'Add a primary key or a unique index on columns that are NOT NULL.',
  },
  'unknown-row': { example: '/tables/passages/rows/0', fix: 'The row may have been deleted.' },
  'not-implemented': {
    example: '/odata/passages?$compute=toll mul 2 as twice',
    fix: 'Use a supported option. docs/odata.md lists them.',
  },
  'too-many-changes': {
    example: 'POST /tables/passages/changes with 100,001 changes',
    fix: 'Send several sets.',
  },
  'not-changeable': {
    example: 'POST /tables/canals/changes where the configuration allows none',
    fix: 'Allow it in the configuration (`changes`), give the service a role that may write (--changes), and the table a key.',
  },
  'change-not-allowed': {
    example: '{"kind":"remove","key":["17"]} where only values may be changed',
    fix: 'Remove the change, or allow it: `changes: { remove: true }`.',
  },
  'column-not-writable': {
    example: '{"kind":"change","key":["17"],"values":{"id":"18"}}',
    fix: 'Remove the column, or allow it: `changes: { change: [status] }`.',
  },
  'nothing-to-change': {
    example: '{"kind":"change","key":["17"],"values":{}}',
    fix: 'Add at least one value.',
  },
  'missing-value': {
    example: '{"kind":"change","key":["17"],"values":{"status":null}}',
    fix: 'Add a value. A new row may omit columns with a default.',
  },
  'text-too-long': {
    example: '{"values":{"code":"…"}} with more characters than the column holds',
    fix: 'Shorten the text.',
  },
  'too-many-decimals': {
    example: '{"values":{"toll":"4.005"}} of numeric(8,2)',
    fix: 'Round the number. The service never rounds.',
  },
  'pattern-mismatch': {
    example: '{"values":{"code":"x"}} where the configuration has a `pattern`',
    fix: 'Use the format in the message.',
  },
  'breaks-rule': {
    example: '{"values":{"toll":"-1"}} where a `rule` says toll >= 0',
    fix: 'Use values that meet the rule.',
  },
  'duplicate-row': {
    example: 'two changes of the same key in one set',
    fix: 'Combine them into one.',
  },
  'repeated-ref': { example: 'two additions with "ref":"a"', fix: 'Use a different ref for each.' },
  'unknown-ref': {
    example: '{"values":{"lock_id":{"ref":"b"}}} without such an addition',
    fix: 'Use the ref of a new row of the same set.',
  },
  'ref-mismatch': {
    example: '{"values":{"lock_id":{"ref":"a"}}} where a is not a lock',
    fix: 'Use the ref of a new row of the referenced table.',
  },
  'circular-refs': {
    example: 'two additions that refer to each other',
    fix: 'Omit one of the values, and change it in a second set.',
  },
  'outside-row-rule': {
    example: 'a change after which the caller may not see the row',
    fix: 'Use values that the row rule allows.',
  },
  'value-taken': {
    example: 'a new row with a name that another row has (a unique constraint)',
    fix: 'Use another value, or change the other row.',
  },
  'unknown-reference': {
    example: '{"values":{"lock_id":999}}',
    fix: 'Use the key of an existing row that you may see.',
  },
  'still-referenced': {
    example: 'removing a lock that has passages',
    fix: 'Change or remove the referencing rows first.',
  },
  'undo-affects-others': {
    example: 'undoing a new lock to which others have added passages',
    fix: 'Change or remove the referencing rows first.',
  },
  'overlaps-another': {
    example: 'two bookings at the same time (an exclusion constraint)',
    fix: 'Use values that do not overlap the other row.',
  },
  'constraint-broken': {
    example: 'a value that violates a check constraint',
    fix: 'Use a valid value. The configuration can give the constraint a message: `messages`.',
  },
  'value-refused': {
    example: 'an invalid text for a type such as inet',
    fix: 'Use the notation of the PostgreSQL type.',
  },
  'refused-by-trigger': {
    example: 'a change for which a trigger raises an error',
    fix: 'Read the message: it is the text of the trigger.',
  },
  'skipped-by-trigger': {
    example: 'a new row for which a trigger returns NULL',
    fix: 'Ask the owner of the table.',
  },
  'unknown-change-set': {
    example: 'POST /changes/xyz/undo',
    fix: 'Use an id from an answer or from the history.',
  },
  'already-undone': {
    example: 'POST /changes/{id}/undo twice',
    fix: 'Undo the set that undid it.',
  },
  'cannot-undo': {
    example: 'undoing a set saved with `history: { keep: names }`',
    fix: 'Change the rows by hand.',
  },
  'no-history': {
    example: 'GET /tables/passages/rows/17/history without --records',
    fix: 'Start the service with --records.',
  },
  'malformed-idempotency-key': { example: 'an empty Idempotency-Key', fix: 'Send a random UUID.' },
  'withdrawn-key': {
    example: 'a request that arrives after it was withdrawn',
    fix: 'Send the change set with a new Idempotency-Key.',
  },
  'key-of-another-set': {
    example: 'the same Idempotency-Key with other changes',
    fix: 'Use a new key for each change set.',
  },
};
