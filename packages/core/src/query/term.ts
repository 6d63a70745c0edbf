import { printExpression, printName, type Expression } from '../expression/index.ts';
import type { SortTerm, Term } from './query.ts';

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
