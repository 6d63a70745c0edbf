import type { CheckedExpression, CheckedQuery, CheckedScalar } from '../check/index.ts';
import type { Relations } from './scope.ts';

/**
 * Whether a window is best read in the same way whatever values are bound: from an index that
 * leads with the order, within bounds of that order alone. Of all other conditions the values decide:
 * a rare one is looked up, a frequent one is come across.
 */
export function isGenericPlan(query: CheckedQuery, relations: Relations): boolean {
  const { table, sort, filter, search, offset } = query;
  const [leading] = sort;
  if (leading === undefined || search !== undefined || offset > 0) return false;
  const { name, path, indexed } = leading.column;
  if (path.length > 0 || !indexed || relations(table.name).only !== undefined) return false;
  return filter === undefined || isBound(filter, name);
}

const bounds: ReadonlySet<string> = new Set(['<', '<=', '>', '>=']);

function isBound(filter: CheckedExpression, column: string): boolean {
  switch (filter.kind) {
    case 'and':
      return filter.operands.every((one) => isBound(one, column));
    case 'comparison': {
      const { comparator, left, right } = filter;
      return bounds.has(comparator) && isColumn(left, column) && right.kind === 'value';
    }
    case 'between': {
      const { operand, low, high } = filter;
      return isColumn(operand, column) && low.kind === 'value' && high.kind === 'value';
    }
    default:
      return false;
  }
}

function isColumn(scalar: CheckedScalar, name: string): boolean {
  return scalar.kind === 'column' && scalar.column.path.length === 0 && scalar.column.name === name;
}
