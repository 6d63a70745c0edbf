import type { CheckedExpression } from '../check/index.ts';
import { condition } from './condition.ts';
import { withTables } from './count.ts';
import { sql, type SQL } from './fragment.ts';
import { Scope, type Relations } from './scope.ts';
import type { Relation } from './statement.ts';

/**
 * The tables with only the rows that meet their rule, wherever a statement reads them: as the
 * table asked for, as a related row, as rows that refer. A rule itself reads whole tables.
 * PostgreSQL takes such rows for the table's own, with all its indexes.
 */
export function onlyRows(
  relations: Relations,
  rules: ReadonlyMap<string, CheckedExpression>,
): Relations {
  const known = new Map<string, Relation>();
  return (table) => {
    const rule = rules.get(table);
    const relation = relations(table);
    if (rule === undefined) return relation;
    const made = known.get(table) ?? ruled(table, rule, relation, relations);
    known.set(table, made);
    return made;
  };
}

function ruled(
  table: string,
  rule: CheckedExpression,
  relation: Relation,
  relations: Relations,
): Relation {
  const { made: only, tables: reads } = withTables(
    (recording) => selected(table, rule, recording),
    relations,
  );
  return { ...relation, only, reads };
}

function selected(
  table: string,
  rule: CheckedExpression,
  relations: Relations,
): (fenced: boolean) => SQL {
  const scope = new Scope(table, relations);
  const test = condition(rule, scope);
  const { types } = relations(table);
  // By name: the role may read some of the columns only.
  const columns =
    types === undefined
      ? sql`${sql.raw(scope.alias)}.*`
      : sql.join(
          [...types.keys()].map((name) => sql.member(scope.alias, name)),
          sql`, `,
        );
  const rows = sql`select ${columns}${scope.from()} where ${test}`;
  // The planner moves no condition into a statement with an offset.
  return (fenced) => (fenced ? sql`(${rows} offset 0)` : sql`(${rows})`);
}
