/**
 * What the database's own catalog says about every relation that the role may read: one row a
 * relation, in one JSON document. System schemas, the service's own schema, partitions of a
 * published table and objects that belong to an extension are left out.
 */
export const relationsStatement = `
with readable as (
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
)
select json_build_object(
  'schema', r.schema, 'name', r.name, 'kind', r.kind,
  'inherited', r.inherited, 'estimated', r.estimated, 'comment', r.comment,
  'columns', coalesce((
    select json_agg(json_build_object(
      'name', a.attname, 'type', a.atttypid::bigint, 'modifier', a.atttypmod,
      'nullable', not a.attnotnull,
      'generated', case when a.attgenerated <> '' then 'computed'
                        when a.attidentity = 'a' then 'numbered' end,
      'defaulted', a.atthasdef or a.attidentity <> '' or exists (
        select from pg_type t where t.oid = a.atttypid and t.typdefault is not null),
      'deterministic', not exists (
        select from pg_collation co where co.oid = a.attcollation and not co.collisdeterministic),
      'order', (
        select case
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
        end
        from pg_collation co, to_jsonb(co) j where co.oid = a.attcollation),
      'comment', col_description(r.oid, a.attnum)) order by a.attnum)
    from pg_attribute a
    where a.attrelid = r.oid and a.attnum > 0 and not a.attisdropped
      and has_column_privilege(r.oid, a.attnum, 'SELECT')), '[]'),
  'indexes', coalesce((
    select json_agg(json_build_object(
      'primary', i.indisprimary,
      'unique', i.indisunique and i.indpred is null and i.indexprs is null and i.indimmediate
        and not exists (
          select from unnest(i.indkey::int2[], i.indcollation::oid[], i.indclass::oid[])
            with ordinality k(attnum, coll, class, place)
          join pg_attribute a on a.attrelid = r.oid and a.attnum = k.attnum
          left join pg_opclass o on o.oid = k.class
          left join pg_collation co on co.oid = a.attcollation
          where k.place <= i.indnkeyatts
            and not (coalesce(o.opcdefault or o.opcname like '%\\_pattern\\_ops'
                       or o.opcname = 'varchar_ops', false)
                     and (coalesce(co.collisdeterministic, true)
                          or k.coll = a.attcollation))),
      'usable', i.indisvalid and i.indpred is null and (
        select coalesce(am.amname = 'btree' and (o.opcdefault or o.opcname = 'varchar_ops')
                 and i.indcollation[0] in (0, a.attcollation), false)
        from pg_class ic join pg_am am on am.oid = ic.relam
        left join pg_opclass o on o.oid = i.indclass[0]
        left join pg_attribute a on a.attrelid = r.oid and a.attnum = i.indkey[0]
        where ic.oid = i.indexrelid),
      'columns', (
        select json_agg(a.attname order by k.place)
        from unnest(i.indkey::int2[]) with ordinality k(attnum, place)
        left join pg_attribute a on a.attrelid = r.oid and a.attnum = k.attnum and k.attnum > 0
        where k.place <= i.indnkeyatts))
      order by i.indisprimary desc, i.indnkeyatts, i.indexrelid)
    from pg_index i where i.indrelid = r.oid and i.indisvalid), '[]'),
  'foreignKeys', coalesce((
    select json_agg(json_build_object(
      'columns', (select json_agg(a.attname order by k.place)
                  from unnest(f.conkey) with ordinality k(attnum, place)
                  join pg_attribute a on a.attrelid = f.conrelid and a.attnum = k.attnum),
      'schema', p.schema, 'table', p.name,
      'onDelete', f.confdeltype, 'onUpdate', f.confupdtype,
      'references', (select json_agg(a.attname order by k.place)
                     from unnest(f.confkey) with ordinality k(attnum, place)
                     join pg_attribute a on a.attrelid = f.confrelid and a.attnum = k.attnum))
      order by f.conname)
    from pg_constraint f join readable p on p.oid = f.confrelid
    where f.conrelid = r.oid and f.contype = 'f'), '[]'))
from readable r
order by r.schema = 'public' desc, r.schema, r.name`;

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
