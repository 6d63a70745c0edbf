import type { CheckedColumn, CheckedQuery } from '@ephoros/core/check';
import { inParameter, problem } from '@ephoros/core/problem';
import { compileRow } from '@ephoros/core/sql';
import { Refused } from '../query/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

/** A query whose cursor held a key alone, with the sort values of that row. @throws Refused, Failure */
export async function nextToItsRow(
  { anchorRow, ...query }: CheckedQuery,
  { database }: Pick<Engine, 'database'>,
  { catalog, signal }: Pick<RequestContext, 'catalog' | 'signal'>,
): Promise<CheckedQuery> {
  if (anchorRow === undefined) return query;
  const { kind, key } = anchorRow;
  const { table, sort } = query;
  const columns = sort.map(({ column }): CheckedColumn => column);
  const values = key.map((value) => value ?? '');
  const statement = compileRow(table, columns, values, catalog.locate);
  const { rows } = await database.run(statement, { signal, table: table.name });
  const [row] = rows;
  if (row === undefined) throw new Refused(inParameter(kind, [problem('cursor-row-gone', {})]));
  return { ...query, anchor: { kind, values: row } };
}
