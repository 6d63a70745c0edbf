import { queryableRows, type QueryableRows, type ChosenRows } from '@ephoros/client';
import type { RequestClient, QueryOptions } from './request-client.ts';

/** What is requested of a client for one table. */
export function requestsByRows(
  client: RequestClient,
  table: string,
  refreshes: number,
): QueryOptions {
  const { values, aggregates, mileposts, written } = client;
  const requests = new WeakMap<ChosenRows, Promise<QueryableRows>>();
  return {
    refreshes,
    rows: (...rest) => client.rows(table, ...rest),
    groups: (...rest) => client.groups(table, ...rest),
    others: client.rows,
    queryable: (rows) => {
      // The same rows are stored once, however often they are requested.
      const known = requests.get(rows) ?? queryableRows(client, table, rows);
      requests.set(rows, known);
      known.catch(() => requests.delete(rows));
      return known;
    },
    values: values && ((...rest) => values(table, ...rest)),
    aggregates: aggregates && ((...rest) => aggregates(table, ...rest)),
    written: written && ((...rest) => written(table, ...rest)),
    mileposts: mileposts && ((...rest) => mileposts(table, ...rest)),
  };
}
