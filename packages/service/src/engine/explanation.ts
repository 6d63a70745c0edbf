import { printExpression, printExpressionJson } from '@ephoros/core/expression';
import { printParameters, type Query } from '@ephoros/core/query';
import {
  compilePlan,
  pathsOf,
  readPlan,
  stepsOf,
  type Paths,
  type PlanNode,
  type Statement,
} from '@ephoros/core/sql';
import type { Way } from '../positions/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';
import type { Ran } from './sql-executor.ts';

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
  /** Every step of the plan, outermost first. */
  readonly steps: readonly PlanStep[];
  /** Rows of tables and indexes that were read for it, also those that were passed over. */
  readonly rowsRead: number;
  /** PostgreSQL's plan as it is, with what was measured. */
  readonly plan: unknown;
  /** Of rows: how each part of the query was turned into SQL. */
  readonly paths?: Paths;
  /** Of rows: from where the window was come to, and how many were passed over on the way. */
  readonly way?: Way;
}

interface PlanStep {
  readonly depth: number;
  readonly step: string;
  /** Rows that it gave. */
  readonly rows: number;
  /** With the steps below it. */
  readonly milliseconds: number;
  /** Without them. */
  readonly ownMilliseconds: number;
}

/** Runs the statement of an answer once more under EXPLAIN ANALYZE and reports all about it. */
export async function explain(
  query: Query,
  table: string,
  { statement: readable, rows: window }: Ran,
  { deferring }: Pick<Engine, 'deferring'>,
  { signal, budget }: Pick<RequestContext, 'signal' | 'budget'>,
): Promise<Explanation> {
  const statement = readable();
  const { rows } = await deferring.run(compilePlan(statement, true), { signal, table, budget });
  const [[document = null] = []] = rows;
  const plan = readPlan(document);
  const nodes = plan === undefined ? [] : stepsOf(plan);
  const { filter } = query;
  return {
    query: Object.fromEntries(printParameters(query)),
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
    rowsRead: nodes.reduce((sum, { node }) => sum + rowsReadBy(node), 0),
    plan: (JSON.parse(document ?? '[]') as unknown[])[0],
    ...(window === undefined ? {} : { paths: pathsOf(window.query), way: window.way }),
  };
}

function stepOf(node: PlanNode, depth: number): PlanStep {
  const on = node['Index Name'] ?? node['Relation Name'];
  const below = (node.Plans ?? []).reduce((sum, one) => sum + timeOf(one), 0);
  return {
    depth,
    step: on === undefined ? node['Node Type'] : `${node['Node Type']} on ${on}`,
    rows: Math.round((node['Actual Rows'] ?? 0) * loopsOf(node)),
    milliseconds: rounded(timeOf(node)),
    // Steps that run next to each other may take longer together than the one above them.
    ownMilliseconds: rounded(Math.max(0, timeOf(node) - below)),
  };
}

function loopsOf(node: PlanNode): number {
  return node['Actual Loops'] ?? 1;
}

function timeOf(node: PlanNode): number {
  return (node['Actual Total Time'] ?? 0) * loopsOf(node);
}

function rounded(milliseconds: number): number {
  return Number(milliseconds.toFixed(3));
}

/** What a step read of a table or an index itself; a step above a bitmap reads what that named. */
function rowsReadBy(node: PlanNode): number {
  if (node['Relation Name'] === undefined) return 0;
  const passed =
    (node['Rows Removed by Filter'] ?? 0) + (node['Rows Removed by Index Recheck'] ?? 0);
  return Math.round(((node['Actual Rows'] ?? 0) + passed) * loopsOf(node));
}
