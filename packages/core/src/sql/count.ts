import { sql, type SQL } from './fragment.ts';
import type { CheckedQuery } from '../check/index.ts';
import { compilePlan } from './plan.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { qualifiedName, write, type Statement } from './statement.ts';

/** How many rows match: one row with one whole number. */
export function compileCount(query: CheckedQuery, relations: Relations): Statement {
  return write(sql`select count(*)${matching(query, relations)}`);
}

/** The planner's guess of how many rows match: a plan (see `readPlan`), whose rows are the guess. */
export function compileEstimate(query: CheckedQuery, relations: Relations): Statement {
  return compilePlan(write(sql`select 1${matching(query, relations)}`));
}

/**
 * What has become of some tables and of all that belongs to them (partitions, tables that inherit):
 * how many rows have been written so far, ever growing, as PostgreSQL's statistics say (a second
 * late, at most ten); which files they lie in, which TRUNCATE changes; of how many of them
 * nobody knows, such as views; and, as `written:rows` for each table, its own part of that and its size.
 */
export function compileWritten(tables: readonly string[], relations: Relations): Statement {
  const names = [...new Set(tables.map((table) => qualifiedName(relations(table))))].sort();
  const counted = sql`sum(pg_stat_get_tuples_inserted(o) + pg_stat_get_tuples_updated(o) + pg_stat_get_tuples_deleted(o))`;
  const files = sql`string_agg(o::text || ':' || coalesce(pg_relation_filenode(o), 0)::text, ',' order by o)`;
  const tree = sql`select to_regclass(t)::oid, to_regclass(t)::oid from unnest(${sql.param(names)}::text[]) t union select root, inhrelid from tree join pg_inherits on inhparent = o`;
  const perTable = sql`select root, coalesce(${counted}, 0) || ':' || coalesce(sum(pg_stat_get_live_tuples(o)), 0) as own from tree group by root`;
  return write(
    sql`with recursive tree (root, o) as (${tree}), tables as (${perTable}) select ${counted}, ${files}, count(*) filter (where c.relkind is null or c.relkind not in ('r', 'm', 'p')), (select string_agg(own, ',' order by root) from tables) from (select distinct o from tree) every_one left join pg_class c on c.oid = o`,
  );
}

/**
 * Compiles something and returns the tables that it reads, by published name: related ones and those of
 * row rules too.
 */
export function withTables<Made>(
  compile: (relations: Relations) => Made,
  relations: Relations,
): { readonly made: Made; readonly tables: readonly string[] } {
  const read = new Set<string>();
  const made = compile((table) => {
    const relation = relations(table);
    read.add(table);
    for (const other of relation.reads ?? []) read.add(other);
    return relation;
  });
  return { made, tables: [...read] };
}

function matching(query: CheckedQuery, relations: Relations): SQL {
  const scope = new Scope(query.table.name, relations);
  const tests = matchTests(query, scope);
  const where = whereAll(tests);
  return sql`${scope.from()}${where}`;
}
