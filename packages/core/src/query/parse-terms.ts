import { parseValues, type ExpressionLimits } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { nameOf, splitList, type Item } from './names.ts';
import type { SortTerm, Term } from './query.ts';
import { termOf } from './term.ts';

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

/**
 * `-passed_at,lock_id`: terms by weight, a leading `-` for descending. Groups are also sorted by
 * functions: `-sum(toll),month(passed_at)`. Names as in `parseNames`.
 */
export function parseSort(text: string): { terms: SortTerm[]; problems: Problem[] } {
  const { items, problems } = splitList(text);
  const terms: SortTerm[] = [];
  for (const item of items) {
    const descending = item.text.startsWith('-');
    const rest = descending ? item.text.slice(1) : item.text;
    const own = {
      text: rest.trimStart(),
      start: item.start + item.text.length - rest.trimStart().length,
    };
    if (own.text === '') {
      const place = { start: item.start, end: item.start + 1 };
      problems.push(problem('empty-list-item', {}, place));
    } else terms.push(sortTerm(own, descending));
  }
  return { terms, problems };
}

const looksLikeCall = /^\s*[a-z_]+\s*\(.*\)$/is;

function sortTerm(item: Item, descending: boolean): SortTerm {
  // Read behind blanks, so that places inside of it are those in the parameter.
  const read = looksLikeCall.test(item.text)
    ? parseValues(' '.repeat(item.start) + item.text)
    : { problems: [] };
  const [expression] = 'values' in read && read.values.length === 1 ? read.values : [];
  const column = nameOf(item);
  return expression?.kind === 'call'
    ? { column: { ...column, name: termOf(expression).name }, descending, expression }
    : { column, descending };
}
