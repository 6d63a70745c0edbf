import { chosenQuery, joinFilters, selectedKeys, type ChosenRows, type Row } from '@ephoros/client';
import type { WrittenQuery } from '@ephoros/core/query';
import type { RequestClient } from '../records/request-client.ts';
import type { Drawn } from '../records/use-records.ts';

/** Rows that can be removed at once. */
export const mostRemoved = 5_000;

/** All selected rows with all their columns, as they are; undefined where there are too many of them. */
export async function readChosen(
  client: RequestClient,
  { table, request }: Pick<Drawn, 'table' | 'request'>,
  chosen: ChosenRows,
): Promise<readonly Row[] | undefined> {
  const query = chosenQuery(request === undefined ? chosen : await request.queryable(chosen));
  const limit = Math.min(table.rowCap, 1_000);
  const rows: Row[] = [];
  let place: WrittenQuery['place'];
  do {
    const answer = await client.rows(table.name, {
      ...query,
      ...(place && { place }),
      limit,
      total: 'none',
    });
    rows.push(...answer.rows);
    if (rows.length > mostRemoved) return undefined;
    place = answer.next === null ? undefined : { kind: 'after', token: answer.next };
  } while (place !== undefined);
  return rows;
}

/** How many of some rows a condition no longer matches. */
export async function countUnmatched(
  client: RequestClient,
  table: string,
  keys: readonly string[],
  { filter, search }: WrittenQuery,
): Promise<number> {
  if (keys.length === 0 || (filter === undefined && search === undefined)) return 0;
  const joined = joinFilters(filter, selectedKeys(keys));
  const { window } = await client.rows(table, {
    filter: joined,
    ...(search === undefined ? {} : { search }),
    limit: 1,
    total: 'exact',
  });
  return window.totalKind === 'exact' ? keys.length - (window.total ?? keys.length) : 0;
}
