import { entry } from './entry.ts';

/** What can be wrong with changes of rows. */
export const changeProblems = {
  'too-many-changes': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `One set holds at most ${most} changes.`,
    hint: () => 'Send several sets, one after the other.',
  }),
  'not-changeable': entry<{ table: string; why?: string | undefined }>({
    status: 422,
    message: ({ table }) => `Rows of ${table} cannot be changed here.`,
    hint: ({ why }) => why,
  }),
  'change-not-allowed': entry<{ what: string; table: string }>({
    status: 422,
    message: ({ what, table }) => `You may not ${what} ${table}.`,
  }),
  'column-not-writable': entry<{ name: string }>({
    status: 422,
    message: ({ name }) => `You may not write to ${name}.`,
    hint: () => 'The description of the table says which columns can be written.',
  }),
  'nothing-to-change': entry<object>({
    status: 422,
    message: () => 'This names no value to be changed.',
  }),
  'missing-value': entry<{ name: string }>({
    status: 422,
    message: ({ name }) => `${name} needs a value.`,
  }),
  'text-too-long': entry<{ most: number; found: number }>({
    status: 422,
    message: ({ most, found }) => `This has ${found} characters; ${most} are the most.`,
  }),
  'too-many-decimals': entry<{ most: number }>({
    status: 422,
    message: ({ most }) =>
      most === 0
        ? 'Here a number without decimals is expected.'
        : `This has too many decimals; ${most} are the most.`,
  }),
  'pattern-mismatch': entry<{ message?: string | undefined }>({
    status: 422,
    message: ({ message }) => message ?? 'This is not written as values of this column are.',
  }),
  'breaks-rule': entry<{ message: string }>({
    status: 422,
    message: ({ message }) => message,
  }),
  'row-twice': entry<{ other: number }>({
    status: 422,
    message: ({ other }) => `Change ${other + 1} of this set is about the same row.`,
    hint: () => 'Put what changes of one row into one change.',
  }),
  'repeated-ref': entry<{ ref: string }>({
    status: 422,
    message: ({ ref }) => `Two additions of this set are called ${ref}.`,
  }),
  'unknown-ref': entry<{ ref: string }>({
    status: 422,
    message: ({ ref }) => `No addition of this set is called ${ref}.`,
  }),
  'ref-misfit': entry<{ ref: string; name: string }>({
    status: 422,
    message: ({ ref, name }) => `${name} does not refer to rows as ${ref} is one.`,
  }),
  'circular-refs': entry<object>({
    status: 422,
    message: () => 'These new rows refer to each other in a circle.',
    hint: () => 'Leave one of the values out, and change it in a second set.',
  }),
  'outside-rule': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `The row would not be one of the rows of ${table} that you may see.`,
  }),
  'value-taken': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) => message ?? `Another row has the same ${names} already.`,
  }),
  'unknown-reference': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) => message ?? `There is no row that this ${names} refers to.`,
  }),
  'still-referred': entry<{ table: string; message?: string | undefined }>({
    status: 422,
    message: ({ table, message }) => message ?? `Rows of ${table} still refer to this row.`,
    hint: () => 'Change or remove those first.',
  }),
  'takes-others': entry<{ table: string }>({
    status: 422,
    message: ({ table }) =>
      `Undoing this would remove or change rows of ${table} that this set of changes did not add.`,
    hint: () => 'Change or remove those rows first.',
  }),
  'overlaps-another': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) =>
      message ?? `This gets in the way of another row${names === '' ? '' : `, by its ${names}`}.`,
  }),
  'constraint-broken': entry<{ name: string; message?: string | undefined }>({
    status: 422,
    message: ({ name, message }) => message ?? `This breaks the rule "${name}" of the table.`,
  }),
  'value-refused': entry<{ message?: string | undefined }>({
    status: 422,
    message: ({ message }) => message ?? 'The database takes no such value here.',
  }),
  'refused-by-trigger': entry<{ message: string; hint?: string | undefined }>({
    status: 422,
    message: ({ message }) => message,
    hint: ({ hint }) => hint,
  }),
  'skipped-by-trigger': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `A trigger of ${table} keeps this from being saved.`,
  }),
  'unknown-change-set': entry<object>({
    status: 404,
    message: () => 'There is no such set of changes for you, or none any more.',
  }),
  'already-undone': entry<object>({
    status: 422,
    message: () => 'This set of changes was undone before.',
    hint: () => 'To have it once more, undo the set that undid it.',
  }),
  'cannot-undo': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `What the rows of ${table} were before is not kept whole.`,
  }),
  'not-remembered': entry<object>({
    status: 400,
    message: () => 'Nothing is remembered of changes here: the service has no place for records.',
    hint: () => 'Start it with --records.',
  }),
  'malformed-idempotency-key': entry<object>({
    status: 400,
    message: () => 'An Idempotency-Key has 1 to 200 printable characters.',
  }),
  'withdrawn-key': entry<object>({
    status: 422,
    message: () =>
      'The request with this Idempotency-Key was withdrawn; nothing is saved under it.',
    hint: () => 'Send the set under another key.',
  }),
  'key-of-another-set': entry<object>({
    status: 422,
    message: () => 'This Idempotency-Key was sent with another set of changes before.',
    hint: () => 'Give each set a key of its own, such as a random UUID.',
  }),
} as const;
