import type { CheckedExpression, CheckedScalar, FunctionName } from '../check/index.ts';

/** Functions that have a value for every argument. */
const total: ReadonlySet<FunctionName> = new Set([
  'casei',
  'lower',
  'upper',
  'initial',
  'length',
  'starts',
  'ends',
  'contains',
  'a_equals',
  'a_contains',
  'a_containedby',
  'a_overlaps',
]);

/**
 * Whether a condition may fail because of a value that it meets, such as by an overflow: then it
 * would tell of rows that it is not to be computed of.
 */
export function mayRaise(expression: CheckedExpression): boolean {
  switch (expression.kind) {
    case 'and':
    case 'or':
      return expression.operands.some(mayRaise);
    case 'not':
      return mayRaise(expression.operand);
    case 'comparison':
      return scalarMayRaise(expression.left) || scalarMayRaise(expression.right);
    case 'between':
      return [expression.operand, expression.low, expression.high].some(scalarMayRaise);
    case 'in':
      return [expression.operand, ...expression.members].some(scalarMayRaise);
    case 'like':
      // That a pattern ends within an escape was refused before.
      return scalarMayRaise(expression.operand) || scalarMayRaise(expression.pattern);
    case 'isNull':
    case 'truth':
      return scalarMayRaise(expression.operand);
    case 'selected':
      // A key that is none of the type is refused, whatever rows there are.
      return false;
    case 'matching':
      return expression.filter !== undefined && mayRaise(expression.filter);
    case 'has':
      return expression.condition !== undefined && mayRaise(expression.condition);
    default:
      throw new Error(`unknown condition ${JSON.stringify(expression satisfies never)}`);
  }
}

/** The same of a value. */
export function scalarMayRaise(scalar: CheckedScalar): boolean {
  switch (scalar.kind) {
    case 'column':
    case 'value':
      return false;
    case 'list':
      return scalar.members.some(scalarMayRaise);
    case 'condition':
      return mayRaise(scalar.condition);
    case 'arithmetic':
      return true;
    case 'function':
      return !total.has(scalar.name) || scalar.args.some(scalarMayRaise);
    case 'count':
      return scalar.condition !== undefined && mayRaise(scalar.condition);
    default:
      throw new Error(`unknown value ${JSON.stringify(scalar satisfies never)}`);
  }
}
