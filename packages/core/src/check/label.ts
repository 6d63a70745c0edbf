import type { Expression } from '../expression/index.ts';
import { spokenTerm } from '../query/index.ts';
import type { CheckedColumn, CheckedScalar } from './checked.ts';

/** What a level or an aggregate over some columns is called in a header. */
export function labelOfTerm(expression: Expression, scalar: CheckedScalar | undefined): string {
  const columns = scalar === undefined ? [] : columnsIn(scalar);
  const labelOf = (name: string): string =>
    columns.find((column) => column.name === name)?.label ?? name;
  if (expression.kind === 'property') return labelOf(expression.name);
  const text = spokenTerm(expression, labelOf);
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** The columns that a value is made of. */
export function columnsIn(scalar: CheckedScalar): readonly CheckedColumn[] {
  switch (scalar.kind) {
    case 'column':
      return [scalar.column];
    case 'arithmetic':
      return [...columnsIn(scalar.left), ...columnsIn(scalar.right)];
    case 'function':
      return scalar.args.flatMap(columnsIn);
    case 'list':
      return scalar.members.flatMap(columnsIn);
    case 'value':
    case 'condition':
    case 'count':
      return [];
    default:
      throw new Error(`unknown scalar ${JSON.stringify(scalar satisfies never)}`);
  }
}

/** What the values of a column are called; nothing of what is made of columns. */
export function valueLabelsOf(
  scalar: CheckedScalar | undefined,
): Pick<CheckedColumn, 'valueLabels'> {
  if (scalar?.kind !== 'column' || scalar.column.valueLabels === undefined) return {};
  return { valueLabels: scalar.column.valueLabels };
}
