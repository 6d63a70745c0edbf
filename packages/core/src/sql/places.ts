import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import { withSettings, type CopyStatement } from './copy.ts';
import { sql, type SQL } from './fragment.ts';
import { order } from './keyset.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { keyColumns } from './chunks.ts';
import { write, type Statement } from './statement.ts';

/** The keys of all rows of a query in its order, by one sort, and what `further` columns hold. Its table has a key. */
export function compilePlaces(
  query: CheckedQuery,
  relations: Relations,
  further: readonly CheckedColumn[] = [],
): Statement {
  return write(placesOf(query, relations, further));
}

/** The same keys as the database keeps them itself (COPY, PostgreSQL's manual, binary format). */
export function compilePlacesCopy(query: CheckedQuery, relations: Relations): CopyStatement {
  return withSettings(sql`copy (${placesOf(query, relations, [])}) to stdout (format binary)`);
}

function placesOf(
  query: CheckedQuery,
  relations: Relations,
  further: readonly CheckedColumn[],
): SQL {
  const scope = new Scope(query.table.name, relations);
  const keys = [...keyColumns(query), ...further].map((column) => scope.column(column));
  const tests = matchTests(query, scope);
  const ordered = order(query.sort, scope);
  return sql`select ${sql.join(keys, sql`, `)}${scope.from()}${whereAll(tests)}${ordered}`;
}

/**
 * The rows of a query with some keys, which were found among its rows: the rest of what it asks for is read all the
 * same, since rows change; but not that they are among others by their keys, which they stay.
 */
export function amongKeys(query: CheckedQuery, keys: readonly (readonly string[])[]): CheckedQuery {
  const selected = {
    kind: 'selected' as const,
    columns: keyColumns(query),
    keys: keys.map((parts) => parts.map((value) => ({ text: value, value }))),
  };
  const { filter } = query;
  const requests = filter === undefined ? [] : filter.kind === 'and' ? filter.operands : [filter];
  const operands = [selected, ...requests.filter(({ kind }) => kind !== 'selected')];
  return {
    ...query,
    filter: { kind: 'and', operands },
    ...{ anchor: undefined, offset: 0, limit: Math.max(1, keys.length) },
  };
}
