import { entry } from './entry.ts';

/** What can be wrong with changes of rows. */
export const changeProblems = {
  'too-many-changes': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `A change set has at most ${most} changes.`,
    hint: () => 'Send several change sets.',
  }),
  'not-changeable': entry<{ table: string; why?: string | undefined }>({
    status: 422,
    message: ({ table }) => `Table ${table} is read-only here.`,
    hint: ({ why }) => why,
  }),
  'change-not-allowed': entry<{ what: string; table: string }>({
    status: 422,
    message: ({ what, table }) => `You may not ${what} ${table}.`,
  }),
  'column-not-writable': entry<{ name: string }>({
    status: 422,
    message: ({ name }) => `You may not write to ${name}.`,
    hint: () => 'The table description lists the writable columns.',
  }),
  'nothing-to-change': entry<object>({
    status: 422,
    message: () => 'The change has no values.',
  }),
  'missing-value': entry<{ name: string }>({
    status: 422,
    message: ({ name }) => `${name} needs a value.`,
  }),
  'text-too-long': entry<{ most: number; found: number }>({
    status: 422,
    message: ({ most, found }) => `The text has ${found} characters, at most ${most} are allowed.`,
  }),
  'too-many-decimals': entry<{ most: number }>({
    status: 422,
    message: ({ most }) =>
      most === 0
        ? 'Expected a number without decimals.'
        : `The number has too many decimals, at most ${most} are allowed.`,
  }),
  'pattern-mismatch': entry<{ message?: string | undefined }>({
    status: 422,
    message: ({ message }) => message ?? 'The value does not match the pattern of this column.',
  }),
  'breaks-rule': entry<{ message: string }>({
    status: 422,
    message: ({ message }) => message,
  }),
  'duplicate-row': entry<{ other: number }>({
    status: 422,
    message: ({ other }) => `Change ${other + 1} of this set has the same row.`,
    hint: () => 'Combine both into one change.',
  }),
  'repeated-ref': entry<{ ref: string }>({
    status: 422,
    message: ({ ref }) => `Two new rows of this set have the ref ${ref}.`,
  }),
  'unknown-ref': entry<{ ref: string }>({
    status: 422,
    message: ({ ref }) => `No new row of this set has the ref ${ref}.`,
  }),
  'ref-mismatch': entry<{ ref: string; name: string }>({
    status: 422,
    message: ({ ref, name }) => `${name} references another table than that of ${ref}.`,
  }),
  'circular-refs': entry<object>({
    status: 422,
    message: () => 'These new rows reference each other in a circle.',
    hint: () => 'Omit one of the values, and change it in a second set.',
  }),
  'outside-row-rule': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `The row would be outside the rows of ${table} that you may see.`,
  }),
  'value-taken': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) => message ?? `Another row already has the same ${names}.`,
  }),
  'unknown-reference': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) => message ?? `The row referenced by ${names} does not exist.`,
  }),
  'still-referenced': entry<{ table: string; message?: string | undefined }>({
    status: 422,
    message: ({ table, message }) => message ?? `Rows of ${table} still reference this row.`,
    hint: () => 'Change or remove those first.',
  }),
  'undo-affects-others': entry<{ table: string }>({
    status: 422,
    message: ({ table }) =>
      `Undoing this would remove or change rows of ${table} that this change set did not add.`,
    hint: () => 'Change or remove those rows first.',
  }),
  'overlaps-another': entry<{ names: string; message?: string | undefined }>({
    status: 422,
    message: ({ names, message }) =>
      message ?? `The row overlaps another row${names === '' ? '' : ` in ${names}`}.`,
  }),
  'constraint-broken': entry<{ name: string; message?: string | undefined }>({
    status: 422,
    message: ({ name, message }) => message ?? `The constraint "${name}" is violated.`,
  }),
  'value-refused': entry<{ message?: string | undefined }>({
    status: 422,
    message: ({ message }) => message ?? 'The database does not accept this value.',
  }),
  'refused-by-trigger': entry<{ message: string; hint?: string | undefined }>({
    status: 422,
    message: ({ message }) => message,
    hint: ({ hint }) => hint,
  }),
  'skipped-by-trigger': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `A trigger of ${table} prevents this change.`,
  }),
  'unknown-change-set': entry<object>({
    status: 404,
    message: () => 'This change set does not exist, or you may not see it.',
  }),
  'already-undone': entry<object>({
    status: 422,
    message: () => 'This change set was already undone.',
    hint: () => 'To restore it, undo the set that undid it.',
  }),
  'cannot-undo': entry<{ table: string }>({
    status: 422,
    message: ({ table }) => `The history of ${table} does not have all previous values.`,
  }),
  'no-history': entry<object>({
    status: 400,
    message: () => 'The service has no history of changes: it runs without records.',
    hint: () => 'Start it with --records.',
  }),
  'malformed-idempotency-key': entry<object>({
    status: 400,
    message: () => 'An Idempotency-Key has 1 to 200 printable characters.',
  }),
  'withdrawn-key': entry<object>({
    status: 422,
    message: () => 'The request with this Idempotency-Key was withdrawn. Nothing was saved.',
    hint: () => 'Send the change set with another key.',
  }),
  'key-of-another-set': entry<object>({
    status: 422,
    message: () => 'This Idempotency-Key was used for another change set.',
    hint: () => 'Use a new key for each change set, such as a random UUID.',
  }),
} as const;
