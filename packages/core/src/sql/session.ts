import { sql, type SQL } from './fragment.ts';
import { write, type Statement } from './statement.ts';

/** Settings of a session by name, as PostgreSQL knows them. */
export type Settings = Readonly<Record<string, string>>;

/** Sets a session, until it ends. */
export function compileSettings(settings: Settings): Statement {
  const calls = Object.entries(settings).map(
    ([name, value]) => sql`set_config(${name}, ${value}, false)`,
  );
  return write(sql`select ${sql.join(calls, sql`, `)}`);
}

/** Whether a session keeps what it was set to: whether it is read-only, and how it writes dates. */
export const settingsInForce: Statement = Object.freeze({
  text: `select current_setting('transaction_read_only'), current_setting('datestyle')`,
  parameters: [],
});

/** Begins a transaction that cannot write, with settings of its own; several commands in one text. */
export function beginReadOnly(settings: Settings): string {
  return begin(sql`begin read only`, settings);
}

/** Begins a transaction that cannot write. */
export const beginReading = 'begin read only';

/** Sets what two lists of names and values say, until the transaction ends. */
export const setForTransaction =
  'select set_config(name, value, true) from unnest($1::text[], $2::text[]) as s(name, value)';

/** Begins a transaction that may write, with settings of its own. */
export function beginWriting(settings: Settings): string {
  return begin(sql`begin isolation level read committed read write`, settings);
}

function begin(beginning: SQL, settings: Settings): string {
  const local = Object.entries(settings).map(
    ([name, value]) => sql`set local ${sql.identifier(name)} = ${sql.literal(value)}`,
  );
  return sql.join([beginning, ...local], sql`; `).write().text;
}

/** Bounds the statements of a session, or those of its transaction, to so many ms. */
export function limitStatements(milliseconds: number, scope: 'session' | 'transaction'): string {
  const local = scope === 'transaction' ? 'local ' : '';
  return `set ${local}statement_timeout = ${Math.trunc(milliseconds)}`;
}

/** Ends a transaction, and its settings with it. */
export const rollback = 'rollback';

/** Asks for nothing: whether the database answers at all. */
export const ping: Statement = Object.freeze({ text: 'select 1', parameters: [] });

/**
 * Which of the sessions $1 (process numbers) run a statement, or may do so for all that is known:
 * rows of the own process number and theirs. One that has waited for its client for $2 ms does not.
 * One row of the own number alone stands first.
 */
export const statesOfSessions: Statement = Object.freeze({
  text: `select pg_backend_pid(), null::int as pid union all select pg_backend_pid(), pid from pg_stat_activity where pid = any($1::int[]) and (state is null or state not like 'idle%' or state_change > clock_timestamp() - $2 * interval '1 ms')`,
  parameters: [],
});

/** The number of the process that serves a session: another one than the session was given has a pooler in between. */
export const ownProcess: Statement = Object.freeze({
  text: 'select pg_backend_pid()',
  parameters: [],
});
