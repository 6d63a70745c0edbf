import { checkQuery, type CheckedExpression } from '../check/index.ts';
import { childrenOf, parseExpression, type Expression } from '../expression/index.ts';
import { Evaluator, unicodeOrder, type MemoryRow } from '../memory/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import type { TableDescription, Tables } from '../schema/index.ts';

/** A rule of a table, ready to be evaluated. */
export interface CheckedRule {
  readonly condition: CheckedExpression;
  readonly message: string;
  /** The table's own columns that it looks at; undefined where it looks at other rows as well. */
  readonly columns: readonly string[] | undefined;
}

const remembered = new WeakMap<TableDescription, readonly CheckedRule[]>();

/** The rules of a table. What cannot be read as a rule any more, since a column is gone, is none. */
export function rulesOf(table: TableDescription, tables: Tables): readonly CheckedRule[] {
  const known = remembered.get(table);
  if (known !== undefined) return known;
  const rules = (table.changes?.rules ?? []).flatMap(({ rule, message }): CheckedRule[] => {
    const read = readRule(rule, table, tables);
    return 'problems' in read ? [] : [{ ...read, message }];
  });
  remembered.set(table, rules);
  return rules;
}

/** A rule from its text, or what is wrong with it. */
export function readRule(
  rule: string,
  table: TableDescription,
  tables: Tables,
): Pick<CheckedRule, 'condition' | 'columns'> | { readonly problems: readonly Problem[] } {
  const parsed = parseExpression(rule);
  if ('problems' in parsed) return parsed;
  const read = checkQuery({ filter: parsed.expression }, table, { tables });
  if ('problems' in read) return read;
  const condition = read.checked.filter;
  if (condition === undefined)
    return { problems: [problem('unexpected-end', { expected: 'a condition' })] };
  const columns = ownColumnsIn(parsed.expression, new Set(table.columns.map(({ name }) => name)));
  return { condition, columns };
}

const ofOtherRows = new Set(['has', 'count', 'selected']);

function ownColumnsIn(
  expression: Expression,
  own: ReadonlySet<string>,
): readonly string[] | undefined {
  if (expression.kind === 'property') {
    return own.has(expression.name) ? [expression.name] : undefined;
  }
  if (expression.kind === 'call' && ofOtherRows.has(expression.name)) return undefined;
  const names: string[] = [];
  for (const child of childrenOf(expression)) {
    const inside = ownColumnsIn(child, own);
    if (inside === undefined) return undefined;
    names.push(...inside);
  }
  return names;
}

/**
 * What a row breaks of its table's rules, as far as that can be reported from its own values: those
 * that `row` does not have are not known. A rule of which nothing can be stated, since a value is
 * null, holds, as a CHECK of the database does.
 */
export function brokenRules(
  row: MemoryRow,
  table: TableDescription,
  tables: Tables,
): readonly { readonly problem: Problem; readonly columns: readonly string[] }[] {
  const rules = rulesOf(table, tables);
  if (rules.length === 0) return [];
  const evaluator = new Evaluator(unicodeOrder, () => []);
  return rules.flatMap(({ condition, message, columns }) => {
    const isReported = columns?.every((name) => Object.hasOwn(row, name)) === true;
    if (!isReported || evaluator.condition(condition, row) !== false) return [];
    return [{ problem: problem('breaks-rule', { message: message }), columns }];
  });
}
