import {
  parseValues,
  printExpression,
  printName,
  type Expression,
  type ExpressionLimits,
} from '../expression/index.ts';
import type { Problem } from '../problem/index.ts';
import type { SortTerm, Term } from './query.ts';

/** `lock.canal.name,month(passed_at)`: columns and functions of them, by commas. */
export function parseTerms(
  text: string,
  limits?: ExpressionLimits,
): { terms: readonly Term[]; problems: readonly Problem[] } {
  // An empty list is no list, as an emptied text box sends it.
  if (text.trim() === '') return { terms: [], problems: [] };
  const read = parseValues(text, limits);
  if ('problems' in read) return { terms: [], problems: read.problems };
  return { terms: read.values.map(termOf), problems: [] };
}

export function termOf(expression: Expression): Term {
  return { name: termName(expression), expression };
}

/** What a term is called: like the filter language, but its function in small letters. */
function termName(expression: Expression): string {
  if (expression.kind === 'property') return printName(expression.name);
  if (expression.kind !== 'call') return printExpression(expression);
  return `${expression.name}(${expression.args.map(printExpression).join(', ')})`;
}

/** Whether a sort means a term: a function as it is called, a column also by its plain name. */
export function sortsBy({ column, expression }: SortTerm, { name }: Pick<Term, 'name'>): boolean {
  return column.name === name || (expression === undefined && printName(column.name) === name);
}

export function printTerms(terms: readonly Term[]): string {
  return terms.map(({ name }) => name).join(',');
}
