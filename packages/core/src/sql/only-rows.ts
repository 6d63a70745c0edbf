import type { CheckedExpression } from '../check/index.ts';
import { condition } from './condition.ts';
import { withTables } from './count.ts';
import { sql, type SQL } from './fragment.ts';
import { insteadOf, Scope, type Relations } from './scope.ts';
import type { Relation } from './statement.ts';

/** What of a table is let through. */
export interface RowPolicy {
  /** The condition that its rows meet; undefined for all rows. */
  readonly rows?: CheckedExpression | undefined;
  /** The conditions of rows that show a column; in other rows it is null. Columns not named are shown in all. */
  readonly cells?: ReadonlyMap<string, CheckedExpression> | undefined;
}

/**
 * The tables with only what is let through of them, wherever a statement reads them: as the
 * table requested, as a related row, as rows that refer. A rule itself reads whole tables.
 * PostgreSQL takes such rows for the table's own, with all its indexes.
 */
export function onlyRows(relations: Relations, rules: ReadonlyMap<string, RowPolicy>): Relations {
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

function ruled(table: string, rule: RowPolicy, relation: Relation, relations: Relations): Relation {
  const { made: only, tables: reads } = withTables(
    (recording) => selected(table, rule, recording),
    relations,
  );
  const over = (rows: SQL): SQL => selected(table, rule, relations, rows)(true);
  return {
    ...relation,
    only,
    over,
    names: textsIn([rule.rows, ...(rule.cells?.values() ?? [])]),
    reads,
  };
}

/** Every text in plain data, so that no name in it is missed. */
function textsIn(data: unknown, found = new Set<string>()): ReadonlySet<string> {
  if (typeof data === 'string') found.add(data);
  else if (typeof data === 'object' && data !== null) {
    for (const member of Object.values(data)) textsIn(member, found);
  }
  return found;
}

function selected(
  table: string,
  { rows, cells = new Map() }: RowPolicy,
  relations: Relations,
  given?: SQL,
): (fenced: boolean) => SQL {
  const scope = new Scope(table, relations, undefined, insteadOf(given));
  const test = rows === undefined ? undefined : condition(rows, scope);
  const { types } = relations(table);
  if (types === undefined && cells.size > 0) throw new Error(`the columns of ${table} are unknown`);
  const shown = (name: string): SQL => {
    const value = sql.member(scope.alias, name);
    const rule = cells.get(name);
    if (rule === undefined) return value;
    return sql`case when ${condition(rule, scope)} then ${value} end as ${sql.identifier(name)}`;
  };
  // By name: the role may read some of the columns only.
  const columns =
    types === undefined
      ? sql`${sql.raw(scope.alias)}.*`
      : sql.join([...types.keys()].map(shown), sql`, `);
  const met = test === undefined ? sql`` : sql` where ${test}`;
  const read = sql`select ${columns}${scope.from()}${met}`;
  // The planner moves no condition into a statement with an offset.
  return (fenced) => (fenced ? sql`(${read} offset 0)` : sql`(${read})`);
}
