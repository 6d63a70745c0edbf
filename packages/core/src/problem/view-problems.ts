import { entry } from './entry.ts';

/** What can be wrong with views, and with keeping them. */
export const viewProblems = {
  'malformed-view': entry<{ expected: string }>({
    status: 400,
    message: ({ expected }) => `Here ${expected} is expected.`,
  }),
  'newer-view': entry<{ version: number; known: number }>({
    status: 400,
    message: ({ version, known }) =>
      `This view was saved by a newer version of the program (${version}; known up to ${known}).`,
    hint: () => 'Run that version of it.',
  }),
  'unknown-view': entry<object>({
    status: 404,
    message: () => 'There is no such kept view.',
    hint: () => 'It may have been dropped, or is not shared with you.',
  }),
  'not-your-view': entry<object>({
    status: 403,
    message: () => 'This view is shared with you, but not yours to change.',
    hint: () => 'Keep a copy of it under a name of your own.',
  }),
  'view-name-taken': entry<{ table: string }>({
    status: 409,
    message: ({ table }) => `You have a view of ${table} by this name already.`,
    hint: () => 'Give it another name, or change the one that there is.',
  }),
  'view-changed': entry<{ version: number }>({
    status: 412,
    message: () => 'This view was changed meanwhile; nothing was overwritten.',
    hint: ({ version }) => `Read it again, then send If-Match: "${version}".`,
  }),
  'if-match-needed': entry<object>({
    status: 428,
    message: () => 'A kept view is changed where it is still as it was read.',
    hint: () => 'Send If-Match with its version in quotes, or * for whatever it is by now.',
  }),
  'view-part-hidden': entry<{ part: string }>({
    status: 400,
    message: ({ part }) => `A part of this view (${part}) speaks of what is not there for you.`,
  }),
  'too-many-views': entry<{ most: number }>({
    status: 413,
    message: ({ most }) => `More than ${most} views of a table are not kept for one caller.`,
    hint: () => 'Drop some.',
  }),
} as const;
