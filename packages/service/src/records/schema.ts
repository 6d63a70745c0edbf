import { sql } from 'drizzle-orm';
import {
  boolean,
  index,
  integer,
  pgSchema,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core';

/** Where the service keeps what is its own. Changed by migrations alone. */
export const ephoros = pgSchema('ephoros');

/** Rows that somebody has selected. */
export const selections = ephoros.table(
  'selections',
  {
    id: text('id').primaryKey(),
    /** Who has made it; empty where callers are not distinguished. */
    caller: text('caller').notNull(),
    /** The published name of the table. */
    table: text('table_name').notNull(),
    /** Whether its keys are those selected, or the exceptions from all that match. */
    kind: text('kind', { enum: ['keys', 'matching'] }).notNull(),
    /** CQL2 Text; null where all rows match. */
    filter: text('filter'),
    /** As its parameter is written. */
    search: text('search'),
    /** How many keys it has. */
    size: integer('size').notNull().default(0),
    /** Counts its changes. */
    version: integer('version').notNull().default(1),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    usedAt: timestamp('used_at', { withTimezone: true }).notNull().defaultNow(),
  },
  ({ usedAt, caller }) => [
    index('selections_used_at').on(usedAt),
    index('selections_caller').on(caller),
  ],
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

/** Sets of changes that were saved, or are about to be. */
export const changeSets = ephoros.table(
  'change_sets',
  {
    id: text('id').primaryKey(),
    /** Who has saved it; empty where callers are not distinguished. */
    caller: text('caller').notNull(),
    at: timestamp('at', { withTimezone: true }).notNull(),
    /**
     * Pending until it is known that its transaction was committed. A withdrawn one was not saved and
     * is not saved any more, whenever its request arrives.
     */
    state: text('state', { enum: ['pending', 'saved', 'withdrawn'] }).notNull(),
    /** The transaction in the database of the tables (`pg_current_xact_id`). */
    transaction: text('transaction').notNull(),
    /** What the caller calls the request, so that it is saved once however often it is sent. */
    idempotencyKey: text('idempotency_key'),
    /** Of what was sent under that key, and what was answered. */
    digest: text('digest'),
    answer: text('answer'),
    /** The set that it takes back. */
    undoes: text('undoes'),
  },
  ({ caller, idempotencyKey, at, undoes }) => [
    uniqueIndex('change_sets_idempotency_key').on(caller, idempotencyKey),
    index('change_sets_at').on(at),
    index('change_sets_undoes').on(undoes),
  ],
);

/** What a set changed, row by row. */
export const changes = ephoros.table(
  'changes',
  {
    set: text('set_id')
      .notNull()
      .references(() => changeSets.id, { onDelete: 'cascade' }),
    /** From 0, in the order in which they were made. */
    place: integer('place').notNull(),
    /** The published name. */
    table: text('table_name').notNull(),
    /** As the address of the row has it, after the change. */
    key: text('row_key').notNull(),
    /** The key before the change, where it is another one. */
    keyBefore: text('row_key_before'),
    kind: text('kind', { enum: ['add', 'change', 'remove'] }).notNull(),
    /** Names of the columns that it is about, as a JSON array. */
    columns: text('columns').notNull(),
    /** JSON objects of values by column; null where there are none, or values are not stored. */
    before: text('before'),
    after: text('after'),
    /** How the values are written: PostgreSQL's own texts, or JSON as answers have it (older entries). */
    notation: text('notation', { enum: ['answer', 'postgres'] })
      .notNull()
      .default('answer'),
    /** The rule of a foreign key by which the database made the change; null where the set requested it. */
    rule: text('rule', { enum: ['delete cascade', 'delete set', 'update cascade', 'update set'] }),
  },
  ({ set, place, table, key, keyBefore }) => [
    primaryKey({ columns: [set, place] }),
    index('changes_row').on(table, key),
    index('changes_row_before')
      .on(table, keyBefore)
      .where(sql`${keyBefore} is not null`),
  ],
);

/** Views that somebody has stored. */
export const views = ephoros.table(
  'views',
  {
    id: text('id').primaryKey(),
    /** Who has stored it; empty where callers are not distinguished. */
    caller: text('caller').notNull(),
    /** The published name. */
    table: text('table_name').notNull(),
    name: text('name').notNull(),
    note: text('note').notNull(),
    /** JSON of a saved view, with its version. */
    view: text('view').notNull(),
    shared: boolean('shared').notNull(),
    /** Whether its table opens with it: for its caller, or where it is shared, for all. */
    first: boolean('first').notNull(),
    /** Counts its changes. */
    version: integer('version').notNull().default(1),
    changedAt: timestamp('changed_at', { withTimezone: true }).notNull(),
  },
  ({ caller, table, name, first, shared }) => [
    uniqueIndex('views_name').on(caller, table, sql`lower(${name})`),
    index('views_table').on(table),
    // One for each caller, and one for all.
    uniqueIndex('views_first_own')
      .on(caller, table)
      .where(sql`${first} and not ${shared}`),
    uniqueIndex('views_first_shared')
      .on(table)
      .where(sql`${first} and ${shared}`),
  ],
);

/** Tokens that the service has given out. */
export const tokens = ephoros.table(
  'tokens',
  {
    id: text('id').primaryKey(),
    /** Who comes by it. */
    name: text('name').notNull(),
    /** SHA-256 of the whole token, in base64url; the token itself is nowhere. */
    hash: text('hash').notNull(),
    /** JSON: a list of names. */
    roles: text('roles').notNull(),
    /** JSON: an object of values for the rules of rows. */
    claims: text('claims').notNull(),
    /** Whether somebody who had signed in let a program ask as them: then it is nobody else's name. */
    forPerson: boolean('for_person').notNull().default(false),
    /** The session in which a program was let in: the token ends with it. */
    session: text('session_id'),
    /** SHA-256 of the code that it was exchanged for, which is exchanged once. */
    code: text('code').unique(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull(),
    /** Null where it does not end by itself. */
    expiresAt: timestamp('expires_at', { withTimezone: true }),
    revokedAt: timestamp('revoked_at', { withTimezone: true }),
    /** When it was last seen, to the minute. */
    usedAt: timestamp('used_at', { withTimezone: true }),
  },
  ({ name, session }) => [index('tokens_name').on(name), index('tokens_session').on(session)],
);

/** Times that somebody signed in by a browser. */
export const sessions = ephoros.table(
  'sessions',
  {
    id: text('id').primaryKey(),
    caller: text('caller').notNull(),
    /** The token by which the caller signed in: the session ends with it. */
    token: text('token_id'),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull(),
    expiresAt: timestamp('expires_at', { withTimezone: true }).notNull(),
    /** When the caller signed out, or was signed out. */
    endedAt: timestamp('ended_at', { withTimezone: true }),
  },
  ({ expiresAt, caller, token }) => [
    index('sessions_expires_at').on(expiresAt),
    index('sessions_caller').on(caller),
    index('sessions_token').on(token),
  ],
);

/** Sign-ins that failed, by the sender, until when they are counted. */
export const attempts = ephoros.table(
  'attempts',
  {
    sender: text('sender').primaryKey(),
    count: integer('count').notNull(),
    expiresAt: timestamp('expires_at', { withTimezone: true }).notNull(),
  },
  ({ expiresAt }) => [index('attempts_expires_at').on(expiresAt)],
);

/** What all services of these records must know and nobody else: the key of session cookies. */
export const secrets = ephoros.table('secrets', {
  name: text('name').primaryKey(),
  value: text('value').notNull(),
});
