import { index, integer, pgSchema, primaryKey, text, timestamp } from 'drizzle-orm/pg-core';

/** Where the service keeps what is its own. Changed by migrations alone. */
export const ephoros = pgSchema('ephoros');

/** Rows that somebody has selected. */
export const selections = ephoros.table(
  'selections',
  {
    id: text('id').primaryKey(),
    /** Who has made it; empty where callers are not told apart. */
    caller: text('caller').notNull(),
    /** The published name of the table. */
    table: text('table_name').notNull(),
    /** Whether its keys are those selected, or the exceptions from all that match. */
    kind: text('kind', { enum: ['keys', 'matching'] }).notNull(),
    /** CQL2 Text; null where all rows match. */
    filter: text('filter'),
    /** As its parameter is written. */
    search: text('search'),
    /** Counts its changes. */
    version: integer('version').notNull().default(1),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    usedAt: timestamp('used_at', { withTimezone: true }).notNull().defaultNow(),
  },
  ({ usedAt }) => [index('selections_used_at').on(usedAt)],
);

/** Keys of rows, as their addresses have them. */
export const selectionKeys = ephoros.table(
  'selection_keys',
  {
    selection: text('selection')
      .notNull()
      .references(() => selections.id, { onDelete: 'cascade' }),
    key: text('key').notNull(),
  },
  ({ selection, key }) => [primaryKey({ columns: [selection, key] })],
);
