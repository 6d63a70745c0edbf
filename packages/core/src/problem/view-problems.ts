import { entry } from './entry.ts';

/** What can be wrong with views, and with keeping them. */
export const viewProblems = {
  'malformed-view': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `Expected ${expected}.`,
  }),
  'newer-view': entry<{ version: number; known: number }>({
    status: 400,
    message: ({ version, known }) =>
      `This view needs a newer version of the program (view version ${version}, supported up to ${known}).`,
    hint: () => 'Update the program.',
  }),
  'unknown-view': entry<object>({
    status: 404,
    message: () => 'This saved view does not exist.',
    hint: () => 'It was deleted, or it is not shared with you.',
  }),
  'not-your-view': entry<object>({
    status: 403,
    message: () => 'This view belongs to someone else.',
    hint: () => 'Save a copy under another name.',
  }),
  'view-name-taken': entry<{ table: string }>({
    status: 409,
    message: ({ table }) => `You already have a view of ${table} with this name.`,
    hint: () => 'Use another name, or change the existing view.',
  }),
  'view-changed': entry<{ version: number }>({
    status: 412,
    message: () => 'Someone else changed this view. Nothing was overwritten.',
    hint: ({ version }) => `Read it again, then send If-Match: "${version}".`,
  }),
  'if-match-needed': entry<object>({
    status: 428,
    message: () => 'Changing a saved view needs If-Match.',
    hint: () => 'Send If-Match with its version in quotes, or * to overwrite any version.',
  }),
  'view-part-hidden': entry<{ part: string }>({
    status: 400,
    message: ({ part }) => `A part of this view (${part}) uses columns that you may not see.`,
  }),
  'too-many-views': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `A caller has at most ${most} saved views of a table.`,
    hint: () => 'Delete some.',
  }),
} as const;
