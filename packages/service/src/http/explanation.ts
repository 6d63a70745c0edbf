import type { CheckedQuery } from '@ephoros/core/check';
import { printExpression, printExpressionJson } from '@ephoros/core/expression';
import { printParameters, type Query } from '@ephoros/core/query';
import {
  compilePlan,
  compileRows,
  pathsOf,
  readPlan,
  type Paths,
  type PlanNode,
  type Statement,
} from '@ephoros/core/sql';
import type { Database } from '../run/index.ts';
import type { Ground, Way } from '../survey/index.ts';

/** How an answer came about. */
export interface Explanation {
  /** The query in its canonical form, by parameter. */
  readonly query: Readonly<Record<string, string>>;
  /** The filter in both encodings. */
  readonly filter?: { readonly text: string; readonly json: unknown };
  readonly sql: string;
  /** What is bound to $1, $2, … */
  readonly parameters: Statement['parameters'];
  /** The indexes that were walked. */
  readonly indexes: readonly string[];
  /** Every step of the plan, outermost first: rows it gave and ms it took, its own steps included. */
  readonly steps: readonly PlanStep[];
  /** PostgreSQL's plan as it is, with what was measured. */
  readonly plan: unknown;
}

/** How rows came about. */
export interface RowsExplanation extends Explanation {
  readonly paths: Paths;
  /** From where the window was come to, and how many rows were passed over on the way. */
  readonly way: Way;
}

interface PlanStep {
  readonly depth: number;
  readonly step: string;
  readonly rows: number;
  readonly milliseconds: number;
}

/** Runs the statement of a window once more under EXPLAIN ANALYZE and tells all about it. */
export async function explainRows(
  { query, checked, way }: { query: Query; checked: CheckedQuery; way: Way },
  { database, relations }: Ground,
  signal: AbortSignal,
): Promise<RowsExplanation> {
  const asking = { signal, table: checked.table.name };
  const told = await explain(query, compileRows(checked, relations), database, asking);
  return { ...told, paths: pathsOf(checked), way };
}

/** Runs a statement once more under EXPLAIN ANALYZE. */
export async function explain(
  asked: Query,
  statement: Statement,
  database: Database,
  asking: { signal: AbortSignal; table: string },
): Promise<Explanation> {
  const { rows } = await database.run(compilePlan(statement, true), asking);
  const [[document = null] = []] = rows;
  const plan = readPlan(document);
  const nodes = plan === undefined ? [] : flatten(plan, 0);
  const { filter } = asked;
  return {
    query: Object.fromEntries(printParameters(asked)),
    ...(filter === undefined
      ? {}
      : {
          filter: {
            text: printExpression(filter),
            json: JSON.parse(printExpressionJson(filter)) as unknown,
          },
        }),
    sql: statement.text,
    parameters: statement.parameters,
    indexes: [...new Set(nodes.flatMap(({ node }) => node['Index Name'] ?? []))],
    steps: nodes.map(({ node, depth }) => stepOf(node, depth)),
    plan: (JSON.parse(document ?? '[]') as unknown[])[0],
  };
}

function flatten(node: PlanNode, depth: number): { node: PlanNode; depth: number }[] {
  const below = (node.Plans ?? []).flatMap((child) => flatten(child, depth + 1));
  return [{ node, depth }, ...below];
}

function stepOf(node: PlanNode, depth: number): PlanStep {
  const loops = node['Actual Loops'] ?? 1;
  const on = node['Index Name'] ?? node['Relation Name'];
  return {
    depth,
    step: on === undefined ? node['Node Type'] : `${node['Node Type']} on ${on}`,
    rows: Math.round((node['Actual Rows'] ?? 0) * loops),
    milliseconds: Number(((node['Actual Total Time'] ?? 0) * loops).toFixed(3)),
  };
}
