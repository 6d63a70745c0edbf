import { parseValues } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import type { Name, SortTerm } from './query.ts';
import { termOf } from './term.ts';

/** The items of a comma-separated list with their places; an empty item is a problem. */
export function parseNames(text: string): { names: Name[]; problems: Problem[] } {
  return namesOf(text.split(','));
}

function namesOf(parts: readonly string[]): { names: Name[]; problems: Problem[] } {
  const names: Name[] = [];
  const problems: Problem[] = [];
  let at = 0;
  for (const part of parts) {
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

/**
 * `-passed_at,lock_id`: terms by weight, a leading `-` for descending. Groups are also sorted by
 * functions: `-sum(toll),month(passed_at)`.
 */
export function parseSort(text: string): { terms: SortTerm[]; problems: Problem[] } {
  const { names, problems } = namesOf(splitOutside(text));
  const terms: SortTerm[] = [];
  for (const { name, span } of names) {
    const descending = name.startsWith('-');
    if (name === '-') problems.push(problem('empty-list-item', {}, span));
    else if (descending) {
      const column = { name: name.slice(1), span: { start: span.start + 1, end: span.end } };
      terms.push(sortTerm(column, descending));
    } else terms.push(sortTerm({ name, span }, descending));
  }
  return { terms, problems };
}

const looksLikeCall = /^\s*[a-z_]+\s*\(.*\)$/is;

function sortTerm({ name, span }: Name, descending: boolean): SortTerm {
  // Read behind blanks, so that places inside of it are those in the parameter.
  const read = looksLikeCall.test(name)
    ? parseValues(' '.repeat(span.start) + name)
    : { problems: [] };
  const [expression] = 'values' in read && read.values.length === 1 ? read.values : [];
  return expression?.kind === 'call'
    ? { column: { name: termOf(expression).name, span }, descending, expression }
    : { column: { name, span }, descending };
}

/** The parts between the commas that stand outside of parentheses and quotes. */
function splitOutside(text: string): string[] {
  if (!text.includes('(')) return text.split(',');
  const parts: string[] = [];
  let depth = 0;
  let start = 0;
  for (const { 0: piece, index } of text.matchAll(/'(?:[^']|'')*'|"(?:[^"]|"")*"|[(),]/g)) {
    if (piece === '(') depth += 1;
    else if (piece === ')') depth -= 1;
    else if (piece === ',' && depth <= 0) {
      parts.push(text.slice(start, index));
      start = index + 1;
    }
  }
  return [...parts, text.slice(start)];
}

export function printSort(terms: readonly SortTerm[]): string {
  return terms.map(({ column, descending }) => `${descending ? '-' : ''}${column.name}`).join(',');
}
