import { inParameter, problem, type Problem } from '../problem/index.ts';
import type { Query } from '../query/index.ts';
import type { CheckedSearch } from './checked.ts';
import type { Lookup } from './lookup.ts';

/** Where the words of a search are looked for; a problem where there is no such place. */
export function checkSearch(
  { search }: Pick<Query, 'search'>,
  lookup: Lookup,
  problems: Problem[],
): CheckedSearch | undefined {
  if (search === undefined) return undefined;
  const { table } = lookup;
  const columns = table.search.flatMap((name) => {
    // The table's own list: what it names was looked up when it was published.
    return lookup.column({ name, span: { start: 0, end: 0 } }, []) ?? [];
  });
  if (columns.length === 0) {
    problems.push(...inParameter('search', [problem('nothing-searchable', { table: table.name })]));
    return undefined;
  }
  const { fullText } = table;
  return { terms: search, columns, ...(fullText === undefined ? {} : { fullText }) };
}
