import { sql, type SQL } from './fragment.ts';
import type { CheckedQuery } from '../check/index.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests } from './search.ts';
import { write, type Statement } from './statement.ts';

/** How many rows match: one row with one whole number. */
export function compileCount(query: CheckedQuery, relations: Relations): Statement {
  return write(sql`select count(*)${matching(query, relations)}`);
}

/** The planner's guess of how many rows match: one JSON plan, whose `Plan Rows` is the guess. */
export function compileEstimate(query: CheckedQuery, relations: Relations): Statement {
  return write(sql`explain (format json) select 1${matching(query, relations)}`);
}

function matching(query: CheckedQuery, relations: Relations): SQL {
  const scope = new Scope(query.table.name, relations);
  const tests = matchTests(query, scope);
  const where = tests.length === 0 ? sql`` : sql` where ${sql.join(tests, sql` and `)}`;
  return sql`${scope.from()}${where}`;
}
