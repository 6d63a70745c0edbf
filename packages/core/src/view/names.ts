import { childrenOf, type Expression } from '../expression/index.ts';
import type { QueryWith } from '../query/index.ts';
import { groupingOf } from './chart.ts';
import type { View } from './view.ts';

/** The names of all columns that a query speaks of. */
export function namesIn(query: QueryWith<Expression | string>): readonly string[] {
  const { columns = [], filter, group = [], aggregate = [], sort = [] } = query;
  const names = [
    ...columns.map(({ name }) => name),
    ...(typeof filter === 'object' ? namesOf(filter) : []),
    ...[...group, ...aggregate].flatMap(({ expression }) => namesOf(expression)),
    ...sort.flatMap(({ column, expression }) =>
      expression === undefined ? [column.name] : namesOf(expression),
    ),
  ];
  return [...new Set(names)];
}

/** The names of all columns that a view needs to know of: also those of its paint and its chart. */
export function namesInView(view: View): readonly string[] {
  const { paint = [], chart } = view;
  const painted = paint.flatMap((rule) => [
    ...(rule.column === undefined ? [] : [rule.column]),
    ...(rule.kind === 'tone' ? namesOf(rule.when) : []),
  ]);
  const charted = chart === undefined ? [] : namesIn(groupingOf(chart));
  return [...new Set([...namesIn(view), ...painted, ...charted])];
}

/** The names of the columns that an expression speaks of. */
export function namesOf(expression: Expression): readonly string[] {
  if (expression.kind === 'property') return [expression.name];
  return childrenOf(expression).flatMap(namesOf);
}
