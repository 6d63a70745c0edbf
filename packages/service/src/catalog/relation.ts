import { z } from 'zod';

/** A relation as the database's catalog reports it. */
export const relationRow = z.object({
  schema: z.string(),
  name: z.string(),
  kind: z.string(),
  /** Whether other tables' rows are among its own, which its indexes know nothing of. */
  inherited: z.boolean(),
  estimated: z.number().nullable(),
  comment: z.string().nullable(),
  columns: z.array(
    z.object({
      name: z.string(),
      type: z.number(),
      modifier: z.number(),
      nullable: z.boolean(),
      /** Whether the database alone gives it a value: from others, or a number of its own. */
      generated: z.enum(['computed', 'numbered']).nullable(),
      defaulted: z.boolean(),
      /** Whether only texts that are the same are equal in its collation. */
      deterministic: z.boolean(),
      order: z.string().nullable(),
      comment: z.string().nullable(),
    }),
  ),
  indexes: z.array(
    z.object({
      primary: z.boolean(),
      unique: z.boolean(),
      usable: z.boolean(),
      // Null where the index holds an expression.
      columns: z.array(z.string().nullable()),
    }),
  ),
  foreignKeys: z.array(
    z.object({
      columns: z.array(z.string()),
      schema: z.string(),
      table: z.string(),
      references: z.array(z.string()),
      /** What becomes of a row here when the one it refers to goes, or gets another key (`confdeltype`). */
      onDelete: z.enum(['a', 'r', 'c', 'n', 'd']),
      onUpdate: z.enum(['a', 'r', 'c', 'n', 'd']),
    }),
  ),
});

export type RelationRow = z.infer<typeof relationRow>;

/** What the role of changes may do with a table. */
export const grantRow = z.object({
  schema: z.string(),
  name: z.string(),
  add: z.array(z.string()),
  change: z.array(z.string()),
  read: z.array(z.string()),
  remove: z.boolean(),
});

export type GrantRow = z.infer<typeof grantRow>;
