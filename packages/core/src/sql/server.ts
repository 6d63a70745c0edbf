import type { Statement } from './statement.ts';

/** Where a server stands in the write-ahead log: how far it has written, or followed. */
export const whereServerStands: Statement = Object.freeze({
  text: 'select (case when pg_is_in_recovery() then pg_last_wal_replay_lsn() else pg_current_wal_lsn() end)::text',
  parameters: [],
});

/** Where the log stands behind what was written in it last, committed or not. */
export const whereTheLogStands = 'select pg_current_wal_insert_lsn()::text as name';

/**
 * SQL for what distinguishes a running server from all others: its start, in microseconds. Each session of the server
 * gets the same text, in any database and time zone.
 */
export const serverMark = 'extract(epoch from pg_postmaster_start_time())::text';

/**
 * What kind of server it is, which database, and what the role may: one row. `most`, `role_most` and `database_most`
 * are connections at most, the last two -1 without a limit. `database` and `started` name the database of a server
 * until it is started again.
 */
export const serverFacts = `select current_setting('server_version') as version,
  current_setting('server_encoding') as encoding,
  current_setting('max_connections')::int as most,
  r.rolconnlimit as role_most,
  d.datconnlimit as database_most,
  pg_is_in_recovery() as behind,
  current_setting('default_transaction_read_only') = 'on' as read_only,
  r.rolbypassrls and not r.rolsuper as bypasses_row_security,
  nullif(current_setting('temp_file_limit'), '-1') as temp_limit,
  pg_backend_pid() as process,
  current_database()::text as name,
  d.oid::text as database,
  ${serverMark} as started,
  coalesce((
    select array_agg(format('%s.%s', n.nspname, c.relname) order by 1)
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'm' and not c.relispopulated and has_table_privilege(c.oid, 'select')
  ), '{}') as unpopulated
from pg_roles r, pg_database d
where r.rolname = current_user and d.datname = current_database()`;

/** Something that the service asks of the database, and what it is for. */
export interface ServerNeed {
  readonly what: string;
  readonly statement: string;
  /** What does not work without it; undefined where nothing does. */
  readonly without?: string;
}

/*
 * What is checked of a server that speaks PostgreSQL's protocol, each by a statement of its own over made-up rows, so
 * that it can be tried on any of them.
 */
export const serverNeeds: readonly ServerNeed[] = [
  { what: 'read-only sessions', statement: 'SET SESSION CHARACTERISTICS AS TRANSACTION READ ONLY' },
  {
    what: 'rows compared as a whole',
    statement: 'SELECT 1 WHERE (1, 2) < (1, 3)',
  },
  {
    what: 'nulls last and first in an order',
    statement: 'SELECT x FROM (VALUES (1), (NULL)) v(x) ORDER BY x DESC NULLS LAST',
  },
  {
    what: 'subqueries per row (LATERAL)',
    statement: 'SELECT * FROM (VALUES (1)) v(x), LATERAL (SELECT x + 1 AS y) w',
    without: 'orders by a related column are sorted each time',
  },
  {
    what: 'numbered rows (window functions)',
    statement: 'SELECT row_number() OVER (ORDER BY x) FROM (VALUES (1), (2)) v(x)',
  },
  {
    what: 'percentiles (WITHIN GROUP)',
    statement:
      'SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY x) FROM (VALUES (1.0::float8)) v(x)',
    without: 'medians and percentiles',
  },
  {
    what: 'plans as JSON (EXPLAIN)',
    statement: 'EXPLAIN (FORMAT JSON) SELECT 1',
    without: 'the choice of plans by their costs, explanations, advice',
  },
  {
    what: 'what is done to rows (pg_stat_all_tables)',
    statement: 'SELECT n_tup_ins + n_tup_upd + n_tup_del FROM pg_stat_all_tables LIMIT 1',
    without: 'remembered totals and places expire only by their age',
  },
  {
    what: 'the catalog (pg_class, pg_attribute, pg_constraint, pg_index)',
    statement:
      'SELECT c.oid FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid LEFT JOIN pg_index i ON i.indrelid = c.oid LEFT JOIN pg_constraint k ON k.conrelid = c.oid LIMIT 1',
  },
  {
    what: 'what the planner knows (reltuples)',
    statement: 'SELECT reltuples FROM pg_class LIMIT 1',
    without: 'estimated totals',
  },
  {
    what: 'statements ended from elsewhere (pg_cancel_backend)',
    statement: 'SELECT pg_cancel_backend(-1) WHERE false',
    without: 'statements that nobody waits for go on to their end',
  },
  {
    what: 'transactions by number (pg_current_xact_id)',
    statement: 'SELECT pg_current_snapshot()',
    without: 'changes; what became of a set after an outage',
  },
  {
    what: 'locks by number (advisory locks)',
    statement: 'SELECT pg_try_advisory_lock_shared(7604621), pg_advisory_unlock_shared(7604621)',
    without: 'records set up by several services at once',
  },
];
