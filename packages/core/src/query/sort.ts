import { problem, type Problem } from '../problem/index.ts';
import type { Name, SortTerm } from './query.ts';

/** The items of a comma-separated list with their places; an empty item is a problem. */
export function parseNames(text: string): { names: Name[]; problems: Problem[] } {
  const names: Name[] = [];
  const problems: Problem[] = [];
  let at = 0;
  for (const part of text.split(',')) {
    const lead = part.length - part.trimStart().length;
    const name = part.trim();
    const span = { start: at + lead, end: at + lead + name.length };
    if (name === '') {
      problems.push(problem('empty-list-item', {}, { start: at, end: at + part.length }));
    } else names.push({ name, span });
    at += part.length + 1;
  }
  return { names, problems };
}

/** `-passed_at,lock_id`: terms by weight, a leading `-` for descending. */
export function parseSort(text: string): { terms: SortTerm[]; problems: Problem[] } {
  const { names, problems } = parseNames(text);
  const terms: SortTerm[] = [];
  for (const { name, span } of names) {
    const descending = name.startsWith('-');
    if (name === '-') problems.push(problem('empty-list-item', {}, span));
    else if (descending) {
      const column = { name: name.slice(1), span: { start: span.start + 1, end: span.end } };
      terms.push({ column, descending });
    } else terms.push({ column: { name, span }, descending });
  }
  return { terms, problems };
}

export function printSort(terms: readonly SortTerm[]): string {
  return terms.map(({ column, descending }) => `${descending ? '-' : ''}${column.name}`).join(',');
}
