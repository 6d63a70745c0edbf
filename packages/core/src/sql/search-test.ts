import { sql, type SQL } from './fragment.ts';
import { fullTextOf, searched } from './full-text.ts';
import type { CheckedColumn, CheckedSearch } from '../check/index.ts';
import type { Scope } from './scope.ts';

/** Every term in some column: by ILIKE, which trigram indexes answer, or by words of a language. */
export function searchTest({ terms, columns, fullText }: CheckedSearch, scope: Scope): SQL {
  if (fullText !== undefined) {
    const { language, vector } = fullTextOf(fullText, columns, scope);
    const tests = terms.map((term) => sql`${vector} @@ phraseto_tsquery(${language}, ${term})`);
    return sql`(${sql.join(tests, sql` and `)})`;
  }
  const tests = terms.map((term) => {
    const pattern = patternOf(term);
    const anywhere = columns.map((column) => occurs(column, pattern, scope));
    return sql`(${sql.join(anywhere, sql` or `)})`;
  });
  return sql`(${sql.join(tests, sql` and `)})`;
}

/** Among rows that others refer to it is looked for once, however many refer to each. */
function occurs(column: CheckedColumn, pattern: string, scope: Scope): SQL {
  const [step, ...rest] = column.path;
  if (step === undefined) return sql`${searched(column, scope)} ilike ${pattern}`;
  const { scope: there, among } = scope.beyond(step);
  return among(occurs({ ...column, path: rest }, pattern, there));
}

/** The pattern of LIKE for texts that have another in them, taken literally. */
export function patternOf(text: string): string {
  return `%${text.replace(/[%_\\]/g, '\\$&')}%`;
}
