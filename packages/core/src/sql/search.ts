import { sql, type SQL } from './fragment.ts';
import type { CheckedMatch, CheckedSearch } from '../check/index.ts';
import { plainText } from './cast.ts';
import { condition } from './condition.ts';
import { mayRaise } from './raising.ts';
import type { Scope } from './scope.ts';

/** Every term in some column: by ILIKE, which trigram indexes answer, or by words of a language. */
function searchTest({ terms, columns, fullText }: CheckedSearch, scope: Scope): SQL {
  const names = columns.map((column) =>
    column.type.nondeterministic === true
      ? plainText(scope.column(column), column.type)
      : scope.column(column),
  );
  if (fullText !== undefined) {
    // The configuration is part of the text, so that an index over the same expression serves.
    const language = sql.raw(`'${fullText.replaceAll("'", "''")}'`);
    const all = sql.join(
      names.map((name) => sql`coalesce(${name}, '')`),
      sql` || ' ' || `,
    );
    const tests = terms.map(
      (term) => sql`to_tsvector(${language}, ${all}) @@ phraseto_tsquery(${language}, ${term})`,
    );
    return sql`(${sql.join(tests, sql` and `)})`;
  }
  const tests = terms.map((term) => {
    const pattern = patternOf(term);
    const anywhere = names.map((name) => sql`${name} ilike ${pattern}`);
    return sql`(${sql.join(anywhere, sql` or `)})`;
  });
  return sql`(${sql.join(tests, sql` and `)})`;
}

/** The pattern of LIKE for texts that have another in them, taken literally. */
export function patternOf(text: string): string {
  return `%${text.replace(/[%_\\]/g, '\\$&')}%`;
}

/** A WHERE clause of tests; empty for none. */
export function whereAll(tests: readonly SQL[]): SQL {
  return tests.length === 0 ? sql`` : sql` where ${sql.join(tests, sql` and `)}`;
}

/** What a query's rows must meet: the filter and the search. */
export function matchTests({ filter, search }: CheckedMatch, scope: Scope): SQL[] {
  if (filter && mayRaise(filter)) scope.fence();
  return [
    ...(filter ? [condition(filter, scope)] : []),
    ...(search ? [searchTest(search, scope)] : []),
  ];
}
