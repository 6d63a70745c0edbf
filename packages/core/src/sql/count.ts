import { sql } from 'drizzle-orm';
import type { CheckedQuery } from '../check/index.ts';
import { condition } from './condition.ts';
import { relationName, write, type Relation, type Statement } from './statement.ts';

/** How many rows match: one row with one whole number. */
export function compileCount({ filter }: CheckedQuery, relation: Relation): Statement {
  const where = filter ? sql` where ${condition(filter)}` : sql``;
  return write(sql`select count(*) from ${relationName(relation)}${where}`);
}

/** The planner's guess of how many rows match: one JSON plan, whose `Plan Rows` is the guess. */
export function compileEstimate({ filter }: CheckedQuery, relation: Relation): Statement {
  const where = filter ? sql` where ${condition(filter)}` : sql``;
  return write(sql`explain (format json) select 1 from ${relationName(relation)}${where}`);
}
