import type { Statement } from './statement.ts';

/** A step of PostgreSQL's plan, as far as it is read here; rows and costs are the planner's guess. */
export interface PlanNode {
  readonly 'Node Type': string;
  readonly 'Plan Rows': number;
  readonly 'Total Cost': number;
  readonly 'Index Name'?: string;
  readonly 'Relation Name'?: string;
  /** What was measured, in a plan that was run. */
  readonly 'Actual Rows'?: number;
  readonly 'Actual Loops'?: number;
  readonly 'Actual Total Time'?: number;
  /** Rows that it read and passed over, on average of its loops. */
  readonly 'Rows Removed by Filter'?: number;
  readonly 'Rows Removed by Index Recheck'?: number;
  readonly Plans?: readonly PlanNode[];
}

/** Asks how a statement would be run; with `analyze` it is run, and measured. One JSON document. */
export function compilePlan({ text, parameters }: Statement, analyze = false): Statement {
  const wanted = analyze ? 'explain (analyze, format json)' : 'explain (format json)';
  return Object.freeze({ text: `${wanted} ${text}`, parameters });
}

/** Whether a statement asks for a plan itself; of such no plan can be requested. */
export function isPlan({ text }: Statement): boolean {
  return text.startsWith('explain (');
}

/** The outermost step of the document that `compilePlan` gives; undefined where there is none. */
export function readPlan(document: string | null | undefined): PlanNode | undefined {
  return (JSON.parse(document ?? '[]') as [{ Plan: PlanNode }?])[0]?.Plan;
}

/** The steps of a plan, the outermost first, and how deep each lies. */
export function stepsOf(
  node: PlanNode,
  depth = 0,
): readonly { readonly node: PlanNode; readonly depth: number }[] {
  const below = (node.Plans ?? []).flatMap((child) => stepsOf(child, depth + 1));
  return [{ node, depth }, ...below];
}
