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
 * How many rows of a table have been written so far, ever growing, as PostgreSQL's statistics
 * say: a second late, at most ten. Null where nobody counts them, as for views.
 */
export function compileWritten(table: string, relations: Relations): Statement {
  const name = qualifiedName(relations(table));
  const counted = sql`sum(pg_stat_get_tuples_inserted(o) + pg_stat_get_tuples_updated(o) + pg_stat_get_tuples_deleted(o))`;
  const own = sql`select oid as o from pg_class where oid = to_regclass(${name}) and relkind in ('r', 'm')`;
  const parts = sql`select relid from pg_partition_tree(to_regclass(${name})) where isleaf`;
  return write(sql`select ${counted} from (${own} union all ${parts}) leaves`);
}

function matching(query: CheckedQuery, relations: Relations): SQL {
  const scope = new Scope(query.table.name, relations);
  const tests = matchTests(query, scope);
  const where = whereAll(tests);
  return sql`${scope.from()}${where}`;
}
