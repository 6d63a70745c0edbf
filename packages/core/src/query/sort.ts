import { printName } from '../expression/index.ts';
import type { SortTerm } from './query.ts';

export function printSort(terms: readonly SortTerm[]): string {
  return terms
    .map(({ column: { name }, descending, expression }) => {
      const spelled = expression === undefined ? printName(name) : name;
      return `${descending ? '-' : ''}${spelled}`;
    })
    .join(',');
}
