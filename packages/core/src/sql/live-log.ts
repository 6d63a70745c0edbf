import { sql, type SQL } from './fragment.ts';
import { relationName, write, type Relation, type Statement } from './statement.ts';

/** The publication that says which tables are followed in the log (PostgreSQL manual, 31.1). */
const publication = 'ephoros_live';

/**
 * Tables that the session's role may follow in the log of this server, as `schema.name`. None where the log
 * does not hold enough for that (`wal_level`), the role has no REPLICATION, or the server follows another one itself.
 */
export const tablesInLog: Statement = Object.freeze({
  text: `select schemaname || '.' || tablename from pg_publication_tables where pubname = '${publication}' and current_setting('wal_level') = 'logical' and not pg_is_in_recovery() and exists (select from pg_roles where rolname = current_user and (rolreplication or rolsuper))`,
  parameters: [],
});

/** After how many ms the server ends a follower of its log that says nothing; 0 for never. */
export const followerTimeout: Statement = Object.freeze({
  text: `select setting from pg_settings where name = 'wal_sender_timeout'`,
  parameters: [],
});

/**
 * What a session for replication begins with: values as the service writes them, and a slot that goes with the session,
 * so that no log is stored for a service that is gone. Each is a command of its own.
 */
export function beginFollowing(slot: string): readonly string[] {
  const settings = {
    datestyle: 'ISO',
    timezone: 'UTC',
    intervalstyle: 'iso_8601',
    bytea_output: 'hex',
    extra_float_digits: '1',
  };
  return [
    ...Object.entries(settings).map(([name, value]) => `set ${name} = '${value}'`),
    `CREATE_REPLICATION_SLOT ${slot} TEMPORARY LOGICAL pgoutput NOEXPORT_SNAPSHOT`,
  ];
}

/** Makes the session report what is written to the tables of the publication, from now on, without end. */
export function followLog(slot: string): string {
  return `START_REPLICATION SLOT ${slot} LOGICAL 0/0 (proto_version '1', publication_names '${publication}')`;
}

/**
 * What the owner of a table runs, so that what is written to it is reported from the log; and what takes that away again. A
 * table without a primary key has whole rows in the log: without that nothing could be changed in it any more.
 */
export function livePublicationOf(relation: Relation): {
  readonly add: string;
  readonly drop: string;
} {
  const table = relationName(relation);
  const name = sql.identifier(publication);
  const texts = sql`schemaname = ${sql.literal(relation.schema)} and tablename = ${sql.literal(relation.name)}`;
  const isThere = sql`exists (select from pg_publication where pubname = ${sql.literal(publication)})`;
  const isIn = sql`exists (select from pg_publication_tables where pubname = ${sql.literal(publication)} and ${texts})`;
  const marks = mark(`${relation.schema}${relation.name}`);
  const hasKey = sql`exists (select from pg_index where indrelid = ${sql.literal(text(table))}::regclass and indisprimary)`;
  return {
    add: `-- The server needs wal_level = logical, the role of the service REPLICATION.
do ${marks}
begin
  if not ${text(isThere)} then
    create publication ${text(name)} with (publish_via_partition_root = true);
  end if;
  if not ${text(isIn)} then
    alter publication ${text(name)} add table ${text(table)};
  end if;
  if not ${text(hasKey)} then
    alter table ${text(table)} replica identity full;
  end if;
end ${marks};
-- So that callers with rules of rows are told too which rows leave their sight:
-- alter table ${text(table)} replica identity full;
`,
    drop: `do ${marks}
begin
  if ${text(isIn)} then
    alter publication ${text(name)} drop table ${text(table)};
  end if;
end ${marks};
`,
  };
}

/** What stands around a body that holds such names. */
function mark(names: string): string {
  let tag = 'live';
  while (names.includes(`$${tag}$`)) tag += '_';
  return `$${tag}$`;
}

function text(part: SQL): string {
  return write(part).text;
}
