import { sql, type SQL } from './fragment.ts';
import type { CheckedColumn, CheckedSearch } from '../check/index.ts';
import { plainText } from './cast.ts';
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

/** How well a row meets a search by words of a language. */
export function rankOf({ terms, columns, fullText = 'simple' }: CheckedSearch, scope: Scope): SQL {
  const { language, vector } = fullTextOf(fullText, columns, scope);
  const all = terms.map((term) => sql`phraseto_tsquery(${language}, ${term})`);
  return sql`ts_rank(${vector}, ${sql.join(all, sql` && `)})`;
}

function fullTextOf(
  name: string,
  columns: readonly CheckedColumn[],
  scope: Scope,
): { readonly language: SQL; readonly vector: SQL } {
  // The configuration is part of the text, so that an index over the same expression serves.
  const language = sql.raw(`'${name.replaceAll("'", "''")}'`);
  const all = sql.join(
    columns.map((column) => sql`coalesce(${searched(column, scope)}, '')`),
    sql` || ' ' || `,
  );
  return { language, vector: sql`to_tsvector(${language}, ${all})` };
}

/** Among rows that others refer to it is looked for once, however many refer to each. */
function occurs(column: CheckedColumn, pattern: string, scope: Scope): SQL {
  const [step, ...rest] = column.path;
  if (step === undefined) return sql`${searched(column, scope)} ilike ${pattern}`;
  const { scope: there, among } = scope.beyond(step);
  return among(occurs({ ...column, path: rest }, pattern, there));
}

function searched(column: CheckedColumn, scope: Scope): SQL {
  const value = scope.column(column);
  return column.type.nondeterministic === true ? plainText(value, column.type) : value;
}

/** The pattern of LIKE for texts that have another in them, taken literally. */
export function patternOf(text: string): string {
  return `%${text.replace(/[%_\\]/g, '\\$&')}%`;
}
