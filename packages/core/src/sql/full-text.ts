import type { CheckedColumn, CheckedSearch } from '../check/index.ts';
import { plainText } from './cast.ts';
import type { ColumnNames } from './column-names.ts';
import { sql, type SQL } from './fragment.ts';

/** How well a row meets a search by words of a language. */
export function rankOf(
  { terms, columns, fullText = 'simple' }: CheckedSearch,
  scope: ColumnNames,
): SQL {
  const { language, vector } = fullTextOf(fullText, columns, scope);
  const all = terms.map((term) => sql`phraseto_tsquery(${language}, ${term})`);
  return sql`ts_rank(${vector}, ${sql.join(all, sql` && `)})`;
}

/** The words of columns, and the language that they are read in. */
export function fullTextOf(
  name: string,
  columns: readonly CheckedColumn[],
  scope: ColumnNames,
): { readonly language: SQL; readonly vector: SQL } {
  // The configuration is part of the text, so that an index over the same expression serves.
  const language = sql.raw(`'${name.replaceAll("'", "''")}'`);
  const all = sql.join(
    columns.map((column) => sql`coalesce(${searched(column, scope)}, '')`),
    sql` || ' ' || `,
  );
  return { language, vector: sql`to_tsvector(${language}, ${all})` };
}

/** A column as it is searched. */
export function searched(column: CheckedColumn, scope: ColumnNames): SQL {
  const value = scope.column(column);
  return column.type.nondeterministic === true ? plainText(value, column.type) : value;
}
