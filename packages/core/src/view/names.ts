import { childrenOf, type Expression } from '../expression/index.ts';
import type { QueryWith } from '../query/index.ts';

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

/** The names of the columns that an expression speaks of. */
export function namesOf(expression: Expression): readonly string[] {
  if (expression.kind === 'property') return [expression.name];
  return childrenOf(expression).flatMap(namesOf);
}
