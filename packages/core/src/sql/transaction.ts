import { serverMark } from './server.ts';
import type { Statement } from './statement.ts';
import { beginWriting, type Settings } from './session.ts';

export const commit = 'commit';

/** Checks now what is put off to the end of the transaction. */
export const checkDeferred = 'set constraints all immediate';

/** Checks at the end of the transaction what may be put off to it. */
export const deferConstraints = 'set constraints all deferred';

/** A point of the transaction to go back to, by its number. */
export function savepoint(number: number): {
  readonly set: string;
  readonly release: string;
  readonly goBack: string;
} {
  const name = `p${Math.trunc(number)}`;
  return {
    set: `savepoint ${name}`,
    release: `release savepoint ${name}`,
    goBack: `rollback to savepoint ${name}`,
  };
}

/** Whether the server can tell those who count rows of a transaction at once. */
export const canFlushStatistics: Statement = Object.freeze({
  text: `select to_regproc('pg_catalog.pg_stat_force_next_flush') is not null`,
  parameters: [],
});

/**
 * Begins a transaction that may write, and gives what the database calls it (`name`) and which server
 * that is (`server`, as `serverMark` says it); several commands in one text.
 */
export function beginNamed(settings: Settings, flushesStatistics: boolean): string {
  const message = flushesStatistics ? '; select pg_stat_force_next_flush()' : '';
  return `${beginWriting(settings)}${message}; select pg_current_xact_id()::text as name, ${serverMark} as server`;
}

/** What has become of a transaction: `committed`, `aborted`, `in progress`; `lost` where nobody knows. */
export function compileFate(transaction: string): Statement {
  return { text: "select coalesce(pg_xact_status($1::xid8), 'lost')", parameters: [transaction] };
}

/** The columns of a constraint or of a unique index of a table, in their order. */
export function compileConstrained(
  { schema, table }: { readonly schema: string; readonly table: string },
  constraint: string,
): Statement {
  return {
    text: `select a.attname from pg_class c join pg_namespace n on n.oid = c.relnamespace
      cross join lateral (
        select f.conkey as keys from pg_constraint f where f.conrelid = c.oid and f.conname = $3
        union all
        select i.indkey::int2[] from pg_index i join pg_class x on x.oid = i.indexrelid
        where i.indrelid = c.oid and x.relname = $3
        limit 1) k
      join pg_attribute a on a.attrelid = c.oid and a.attnum = any (k.keys)
      where n.nspname = $1 and c.relname = $2
      order by array_position(k.keys, a.attnum)`,
    parameters: [schema, table, constraint],
  };
}
