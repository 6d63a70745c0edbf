import { z } from 'zod';
import type { Row, Value } from '../answer/index.ts';
import type { Problem } from '../problem/index.ts';

const value = z.unknown() as unknown as z.ZodType<Value>;
const values = z.record(z.string(), value);

const table = z.string().exactOptional().meta({
  description: 'The published name; left out where the address names the table.',
});
const key = z
  .array(z.union([z.string(), z.number(), z.boolean()]))
  .min(1)
  .meta({ description: 'The key of the row: a text for each of its columns.' });
const was = values.exactOptional().meta({
  description: 'Values as they were seen: it is done where they still stand.',
});
const written = values.meta({
  description:
    'By column, as answers hold them; of a reference also { "ref": "…" }, a row that the same set adds.',
});

const change = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('add'),
    table,
    ref: z.string().min(1).exactOptional().meta({
      description: 'What other changes of the set call the new row.',
    }),
    values: written,
  }),
  z.strictObject({ kind: z.literal('change'), table, key, was, values: written }),
  z.strictObject({ kind: z.literal('remove'), table, key, was }),
  z.strictObject({
    kind: z.literal('set'),
    table,
    filter: z.string().meta({ description: 'CQL2 Text: the rows that get the values.' }),
    search: z.string().exactOptional(),
    count: z.int().min(0).exactOptional().meta({
      description: 'How many rows it must be; else it is a conflict that tells how many there are.',
    }),
    values: written,
  }),
]);

/** What is sent to be saved. */
export const changeSetBody = z
  .strictObject({ changes: z.array(change).min(1) })
  .meta({ id: 'ChangeSet' });

const row = z
  .record(z.string(), value)
  .nullable()
  .meta({ description: 'As it is now; null where there is none (for you).' });

const follows = z
  .array(
    z.object({
      table: z.string(),
      kind: z.enum(['remove', 'change']),
      count: z.int(),
    }),
  )
  .exactOptional()
  .meta({
    description:
      'Rows of other tables that the database removes or changes with this row, by the rules of its foreign keys.',
  });

const outcome = z
  .union([
    z.object({ kind: z.literal('done'), key: z.array(z.string()), row, follows }),
    z.object({ kind: z.literal('done'), count: z.int() }),
    z.object({
      kind: z.literal('conflict'),
      columns: z.array(z.string()).meta({ description: 'Whose values are not as they were seen.' }),
      now: row,
    }),
    z.object({ kind: z.literal('conflict'), count: z.int() }),
    z.object({ kind: z.literal('refused'), errors: z.array(z.looseObject({})) }),
    z.object({ kind: z.literal('held') }).meta({
      description: 'It could have been done, but nothing was, since something else could not.',
    }),
  ])
  .meta({ id: 'ChangeOutcome' });

export const changesAnswer = z
  .object({
    id: z.string().nullable().meta({ description: 'Of the saved set; null of a dry run.' }),
    outcomes: z.array(outcome).meta({ description: 'In the order of the changes.' }),
  })
  .meta({ id: 'SavedChanges' });

export const historyAnswer = z
  .object({
    table: z.string(),
    entries: z.array(
      z.object({
        set: z.string().meta({ description: 'The set of changes that it was part of.' }),
        at: z.string().meta({ description: 'RFC 3339.' }),
        who: z
          .string()
          .nullable()
          .meta({ description: 'Null where callers are not distinguished.' }),
        kind: z.enum(['add', 'change', 'remove']),
        key: z.array(z.string()),
        keyBefore: z
          .array(z.string())
          .nullable()
          .meta({ description: 'The key before the change, where it is another one.' }),
        rule: z
          .enum(['delete cascade', 'delete set', 'update cascade', 'update set'])
          .nullable()
          .meta({
            description:
              'The rule of a foreign key by which the database made the change itself; else null.',
          }),
        columns: z.array(z.string()),
        before: z.record(z.string(), value).nullable(),
        after: z.record(z.string(), value).nullable(),
        undoes: z.string().nullable().meta({ description: 'The set that this one took back.' }),
        undone: z.boolean(),
      }),
    ),
    next: z.string().nullable().meta({ description: 'For `after`; null at the end.' }),
  })
  .meta({ id: 'History', description: 'What was changed, the newest first.' });

/** Rows of a table that the database removes or changes with a row that goes or gets another key. */
export interface FollowingRows {
  readonly table: string;
  readonly kind: 'remove' | 'change';
  readonly count: number;
}

/** What has become of one change of a set. */
export type ChangeOutcome =
  | {
      readonly kind: 'done';
      readonly key: readonly string[];
      readonly row: Row | null;
      readonly follows?: readonly FollowingRows[];
    }
  | { readonly kind: 'done'; readonly count: number }
  | { readonly kind: 'conflict'; readonly columns: readonly string[]; readonly now: Row | null }
  | { readonly kind: 'conflict'; readonly count: number }
  | { readonly kind: 'refused'; readonly errors: readonly Problem[] }
  | { readonly kind: 'held' };

/** A set of changes that was saved, or tried (then without an id). */
export interface ChangesAnswer {
  readonly id: string | null;
  /** In the order of the changes. */
  readonly outcomes: readonly ChangeOutcome[];
}

/** What was changed of a row or a table, the newest first. */
export type HistoryAnswer = DeepReadonly<z.infer<typeof historyAnswer>>;

/** One line of a history. */
export type HistoryEntry = HistoryAnswer['entries'][number];

type DeepReadonly<Part> = [Value] extends [Part]
  ? Part
  : Part extends object
    ? { readonly [Name in keyof Part]: DeepReadonly<Part[Name]> }
    : Part;
