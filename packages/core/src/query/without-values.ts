import { text, type Expression } from '../expression/index.ts';
import { printParameters } from './parameters.ts';
import type { Query } from './query.ts';

const hidden = text('…');

/**
 * A query in its canonical spelling with "…" for every value in it: what is compared, searched for, opened, and the
 * row that a cursor names. What is left shows which question it is, and nothing of anybody's data.
 */
export function printWithoutValues(query: Query): string {
  const { filter, search, path, place, group, aggregate, ...rest } = query;
  const wanted: Query = {
    ...rest,
    ...(group && { group }),
    ...(aggregate && { aggregate }),
    ...(filter && { filter: withoutValues(filter) }),
    ...(search && { search: ['…'] }),
    ...(place?.kind === 'page' || place?.kind === 'offset' ? { place } : {}),
  };
  const pairs: (readonly [string, string])[] = printParameters(wanted);
  if (path !== undefined) pairs.push(['path', '…']);
  if (place !== undefined && 'token' in place) pairs.push([place.kind, '…']);
  return pairs.map(([name, value]) => `${name}=${value}`).join('&');
}

function withoutValues(expression: Expression): Expression {
  switch (expression.kind) {
    case 'text':
    case 'number':
    case 'boolean':
    case 'date':
    case 'timestamp':
      return hidden;
    case 'array':
      return { ...expression, members: [hidden] };
    case 'in':
      // However many there are: nothing is known of all of them.
      return { ...expression, operand: withoutValues(expression.operand), members: [hidden] };
    case 'and':
    case 'or':
      return { ...expression, operands: expression.operands.map(withoutValues) };
    case 'not':
    case 'isNull':
      return { ...expression, operand: withoutValues(expression.operand) };
    case 'comparison':
    case 'arithmetic':
      return {
        ...expression,
        left: withoutValues(expression.left),
        right: withoutValues(expression.right),
      };
    case 'between':
      return {
        ...expression,
        operand: withoutValues(expression.operand),
        low: hidden,
        high: hidden,
      };
    case 'like':
      return { ...expression, operand: withoutValues(expression.operand), pattern: hidden };
    case 'interval':
      return {
        ...expression,
        start: withoutValues(expression.start),
        end: withoutValues(expression.end),
      };
    case 'call':
      return { ...expression, args: expression.args.map(withoutValues) };
    case 'unbounded':
    case 'property':
      return expression;
    default:
      throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
  }
}
