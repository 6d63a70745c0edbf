/**
 * What the database's own catalog says about every relation that the role may read: one row a
 * relation, in one JSON document. System schemas, the service's own schema, partitions of a
 * published table and objects that belong to an extension are left out. Each part is read for all
 * relations at once: of thousands of tables nothing is looked up one by one.
 */
export const relationsStatement = `
with readable as materialized (
  select c.oid, n.nspname as schema, c.relname as name, c.relkind as kind,
         c.relkind = 'r' and exists (select from pg_inherits h where h.inhparent = c.oid)
           as inherited,
         case when c.reltuples < 0 or c.relkind = 'v' then null
              else c.reltuples::bigint end as estimated,
         obj_description(c.oid, 'pg_class') as comment
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  where c.relkind in ('r', 'p', 'v', 'm', 'f')
    and not c.relispartition
    and n.nspname not in ('pg_catalog', 'information_schema', 'pg_toast', 'ephoros')
    and n.nspname not like 'pg\\_temp\\_%'
    and has_schema_privilege(n.oid, 'USAGE')
    and has_any_column_privilege(c.oid, 'SELECT')
    and not exists (
      select from pg_depend d
      where d.classid = 'pg_class'::regclass and d.objid = c.oid and d.deptype = 'e')
),
collations as materialized (
  select co.oid, co.collisdeterministic as deterministic,
    case
      when co.collname in ('C', 'POSIX', 'ucs_basic') or co.collprovider = 'b' then 'C'
      when co.collprovider = 'i' and co.collisdeterministic and j ->> 'collicurules' is null
        then coalesce(j ->> 'colllocale', j ->> 'colliculocale')
      when co.collprovider = 'c' and co.collcollate in ('C', 'POSIX', 'C.UTF-8', 'C.utf8')
        then 'C'
      when co.collprovider = 'd' then (
        select case
          when to_jsonb(d) ->> 'datlocprovider' = 'b' then 'C'
          when to_jsonb(d) ->> 'datlocprovider' = 'i'
            then coalesce(to_jsonb(d) ->> 'datlocale', to_jsonb(d) ->> 'daticulocale')
          when d.datcollate in ('C', 'POSIX', 'C.UTF-8', 'C.utf8') then 'C' end
        from pg_database d where d.datname = current_database())
    end as "order"
  from (select distinct a.attcollation from readable r join pg_attribute a on a.attrelid = r.oid) u
  join pg_collation co on co.oid = u.attcollation
  cross join to_jsonb(co) j
),
columns as (
  select a.attrelid as oid, json_agg(json_build_object(
    'name', a.attname, 'type', a.atttypid::bigint, 'modifier', a.atttypmod,
    'nullable', not a.attnotnull,
    'generated', case when a.attgenerated <> '' then 'computed'
                      when a.attidentity = 'a' then 'numbered' end,
    'defaulted', a.atthasdef or a.attidentity <> '' or t.typdefault is not null,
    'deterministic', coalesce(co.deterministic, true),
    'order', co.order,
    'comment', d.description) order by a.attnum) as list
  from readable r
  join pg_attribute a on a.attrelid = r.oid and a.attnum > 0 and not a.attisdropped
  left join pg_type t on t.oid = a.atttypid
  left join collations co on co.oid = a.attcollation
  left join pg_description d on d.classoid = 'pg_class'::regclass
    and d.objoid = a.attrelid and d.objsubid = a.attnum
  where has_column_privilege(a.attrelid, a.attnum, 'SELECT')
  group by a.attrelid
),
index_parts as (
  select i.indrelid as oid, i.indexrelid as index, i.indisprimary as is_primary,
    i.indnkeyatts as size,
    i.indisunique and i.indpred is null and i.indexprs is null and i.indimmediate as is_unique,
    i.indpred is null as is_whole, k.place,
    case when k.attnum > 0 then a.attname end as name,
    a.attnum is not null
      and not (coalesce(o.opcdefault or o.opcname like '%\\_pattern\\_ops'
                 or o.opcname = 'varchar_ops', false)
               and (coalesce(co.deterministic, true) or k.coll = a.attcollation))
      as equals_otherwise,
    k.place = 1 and coalesce(am.amname = 'btree' and (o.opcdefault or o.opcname = 'varchar_ops')
      and k.coll in (0, a.attcollation), false) as orders
  from readable r
  join pg_index i on i.indrelid = r.oid and i.indisvalid
  join pg_class ic on ic.oid = i.indexrelid
  join pg_am am on am.oid = ic.relam
  cross join lateral unnest(i.indkey::int2[], i.indcollation::oid[], i.indclass::oid[])
    with ordinality k(attnum, coll, class, place)
  left join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.attnum
  left join pg_opclass o on o.oid = k.class
  left join collations co on co.oid = a.attcollation
  where k.place <= i.indnkeyatts
),
indexes as (
  select i.oid, json_agg(json_build_object(
    'primary', i.is_primary,
    'unique', i.is_unique and not i.equals_otherwise,
    'usable', i.is_whole and i.orders,
    'columns', i.names) order by i.is_primary desc, i.size, i.index) as list
  from (
    select oid, index, is_primary, size, is_unique, is_whole,
      bool_or(equals_otherwise) as equals_otherwise, bool_or(orders) as orders,
      json_agg(name order by place) as names
    from index_parts
    group by oid, index, is_primary, size, is_unique, is_whole
  ) i
  group by i.oid
),
keys as (
  select f.oid, json_agg(json_build_object(
    'columns', f.names, 'schema', f.schema, 'table', f.name,
    'onDelete', f.deletes, 'onUpdate', f.updates, 'references', f.referred)
    order by f.conname) as list
  from (
    select f.conrelid as oid, f.conname, p.schema, p.name,
      f.confdeltype as deletes, f.confupdtype as updates,
      json_agg(a.attname order by k.place) as names,
      json_agg(b.attname order by k.place) as referred
    from readable r
    join pg_constraint f on f.conrelid = r.oid and f.contype = 'f'
    join readable p on p.oid = f.confrelid
    cross join lateral unnest(f.conkey, f.confkey) with ordinality k(own, other, place)
    join pg_attribute a on a.attrelid = f.conrelid and a.attnum = k.own
    join pg_attribute b on b.attrelid = f.confrelid and b.attnum = k.other
    group by f.oid, f.conrelid, f.conname, p.schema, p.name, f.confdeltype, f.confupdtype
  ) f
  group by f.oid
)
select json_build_object(
  'schema', r.schema, 'name', r.name, 'kind', r.kind,
  'inherited', r.inherited, 'estimated', r.estimated, 'comment', r.comment,
  'columns', coalesce(c.list, '[]'),
  'indexes', coalesce(i.list, '[]'),
  'foreignKeys', coalesce(k.list, '[]'))
from readable r
left join columns c on c.oid = r.oid
left join indexes i on i.oid = r.oid
left join keys k on k.oid = r.oid
order by r.schema = 'public' desc, r.schema, r.name`;

/** What a change of the catalog writes to. */
const catalogTables = [
  'pg_class',
  'pg_attribute',
  'pg_attrdef',
  'pg_type',
  'pg_enum',
  'pg_index',
  'pg_constraint',
  'pg_inherits',
  'pg_namespace',
  'pg_description',
  'pg_collation',
  'pg_depend',
  'pg_authid',
  'pg_auth_members',
  'pg_database',
] as const;

const writes = catalogTables
  .map((name) =>
    ['inserted', 'updated', 'deleted']
      .map((what) => `pg_stat_get_tuples_${what}('pg_catalog.${name}'::regclass)`)
      .join(' + '),
  )
  .join(' + ');

/** Those that a role without rights may read. */
const versions = catalogTables
  .filter((name) => name !== 'pg_authid')
  .map(
    (name) =>
      `(select count(*) || ',' || coalesce(sum(xmin::text::bigint), 0) from pg_catalog.${name})`,
  )
  .join(` || ' ' || `);

/**
 * A text that is another one after the catalog, or an estimate of rows, has changed: from the counters of the server,
 * which may be ten seconds late; on a replica and without counters from the versions of all its rows, which takes
 * longer.
 */
export const catalogMarkStatement = `
select to_json(
  case when pg_is_in_recovery() or current_setting('track_counts') = 'off'
    then (select ${versions})
    else (select (${writes})::text) end
  || ' ' || (select sum(c.reltuples)::text from pg_class c))`;

/**
 * What the role may write: of every table the columns that it may give values in new rows and in rows
 * that are there, those that it may read back, and whether it may remove rows.
 */
export const grantsStatement = `
select json_build_object(
  'schema', n.nspname, 'name', c.relname,
  'add', coalesce(json_agg(a.attname) filter (
    where has_column_privilege(c.oid, a.attnum, 'INSERT')), '[]'),
  'change', coalesce(json_agg(a.attname) filter (
    where has_column_privilege(c.oid, a.attnum, 'UPDATE')), '[]'),
  'read', coalesce(json_agg(a.attname) filter (
    where has_column_privilege(c.oid, a.attnum, 'SELECT')), '[]'),
  'remove', has_table_privilege(c.oid, 'DELETE'))
from pg_class c
join pg_namespace n on n.oid = c.relnamespace
join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
where c.relkind in ('r', 'p') and not c.relispartition
  and n.nspname not in ('pg_catalog', 'information_schema', 'pg_toast', 'ephoros')
  and n.nspname not like 'pg\\_temp\\_%'
  and has_schema_privilege(n.oid, 'USAGE')
  and (has_any_column_privilege(c.oid, 'INSERT, UPDATE') or has_table_privilege(c.oid, 'DELETE'))
group by n.nspname, c.oid, c.relname`;

/** Every type that a column may have, with what is needed to follow domains and arrays. */
export const typesStatement = `
select json_build_object(
  'id', t.oid::bigint, 'name', t.typname, 'kind', t.typtype,
  'written', quote_ident(n.nspname) || '.' || quote_ident(t.typname),
  'base', t.typbasetype::bigint, 'baseModifier', t.typtypmod,
  'notNull', t.typnotnull,
  'element', case when t.typoutput = 'array_out'::regproc then t.typelem::bigint else 0 end,
  'values', (select json_agg(e.enumlabel order by e.enumsortorder)
             from pg_enum e where e.enumtypid = t.oid))
from pg_type t join pg_namespace n on n.oid = t.typnamespace
where t.typtype in ('b', 'c', 'd', 'e', 'r', 'm')`;

/** The encoding of the database's texts, such as "UTF8". */
export const encodingStatement = `select to_json(current_setting('server_encoding'))`;

/** What the role could do beyond reading. */
export const roleStatement = `
select json_build_object(
  'name', current_user,
  'superuser', (select r.rolsuper from pg_roles r where r.rolname = current_user),
  'writes', (
    select count(*) from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p', 'v') and n.nspname not in ('pg_catalog', 'information_schema')
      and has_table_privilege(c.oid, 'INSERT, UPDATE, DELETE, TRUNCATE')))`;
