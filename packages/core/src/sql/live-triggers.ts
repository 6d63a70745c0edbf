import type { TableDescription } from '../schema/index.ts';
import type { Relation, Statement } from './statement.ts';

/** The channel that the triggers notify. */
const channel = 'ephoros_live';

/** Has a session hear what the triggers say. */
export const listenToTriggers = `listen ${channel}`;

/** Tables whose triggers tell what is written to them, as the triggers name them; partitions are written to through their table. */
export const tablesWithTriggers: Statement = Object.freeze({
  text: "select distinct n.nspname || '.' || c.relname from pg_trigger t join pg_class c on c.oid = t.tgrelid join pg_namespace n on n.oid = c.relnamespace where t.tgname like 'ephoros\\_live\\_%' and t.tgenabled in ('O', 'A')",
  parameters: [],
});

/** Rows of one statement beyond which the notice says only that there are many. */
const mostRows = 200;

const quote = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/**
 * What the owner of a table runs, so that the service knows which of its rows are written: a function, and a trigger for each
 * of what can be done. Nothing of a row is reported but its key. Gives too what takes them away again.
 */
export function liveTriggersOf(
  { key }: TableDescription,
  { schema, name }: Relation,
): { readonly add: string; readonly drop: string } {
  const table = `${quote(schema)}.${quote(name)}`;
  const functionName = `${quote(schema)}.${quote(`ephoros_live_${name}`.slice(0, 63))}`;
  const parts = key.map((column) => `r.${quote(column)}::text`).join(', ');
  const trigger = (did: string, event: string, rows?: string): string =>
    `create trigger ephoros_live_${did} after ${event} on ${table}
  ${rows === undefined ? '' : `referencing ${rows} `}for each statement execute function ${functionName}('${did}');`;
  const triggers = ['add', 'change', 'remove', 'leave', 'empty'];
  const drop = [
    ...triggers.map((did) => `drop trigger if exists ephoros_live_${did} on ${table};`),
    `drop function if exists ${functionName}();`,
  ].join('\n');
  return {
    drop: `begin;\n${drop}\ncommit;\n`,
    add: `begin;
${drop}

create function ${functionName}() returns trigger language plpgsql as $live$
declare
  keys jsonb;
  many bigint;
begin
  if tg_argv[0] = 'empty' then
    -- Which rows there were nobody asks any more.
    perform pg_notify('${channel}', jsonb_build_object(
      'table', tg_argv[1] || '.' || tg_argv[2], 'did', 'remove')::text);
    return null;
  elsif tg_argv[0] = 'leave' then
    -- Of many rows the other trigger says that they are many.
    if (select count(*) from (select from new_rows limit ${mostRows + 1}) r) > ${mostRows} then return null; end if;
    -- Keys that a row had before, and that none has now.
    select count(*), jsonb_agg(jsonb_build_array(${parts})) into many, keys
      from (select ${key.map(quote).join(', ')} from old_rows except select ${key.map(quote).join(', ')} from new_rows limit ${mostRows + 1}) r;
  else
    select count(*), jsonb_agg(jsonb_build_array(${parts})) into many, keys
      from (select ${key.map(quote).join(', ')} from new_rows limit ${mostRows + 1}) r;
  end if;
  if many > 0 then
    perform pg_notify('${channel}', jsonb_strip_nulls(jsonb_build_object(
      'table', tg_argv[1] || '.' || tg_argv[2],
      'did', case tg_argv[0] when 'leave' then 'remove' else tg_argv[0] end,
      -- A message has 8,000 bytes at most.
      'keys', case when many <= ${mostRows} and octet_length(keys::text) < 7000 then keys end))::text);
  end if;
  return null;
end $live$
-- Keys are written as the service writes them, whatever the session's own settings are.
set datestyle = 'ISO' set timezone = 'UTC' set intervalstyle = 'iso_8601' set bytea_output = 'hex' set extra_float_digits = 1;

${[
  trigger('add', 'insert', 'new table as new_rows'),
  trigger('change', 'update', 'new table as new_rows'),
  trigger('remove', 'delete', 'old table as new_rows'),
  trigger('leave', 'update', 'old table as old_rows new table as new_rows'),
  trigger('empty', 'truncate'),
]
  .join('\n')
  .replaceAll(
    /\('(\w+)'\);/g,
    (_all, did: string) =>
      `('${did}', '${schema.replaceAll("'", "''")}', '${name.replaceAll("'", "''")}');`,
  )}
commit;
`,
  };
}
