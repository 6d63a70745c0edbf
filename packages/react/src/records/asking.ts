import { askableRows, type AskableRows, type ChosenRows } from '@ephoros/client';
import type { AskedClient, Asking } from './asked-client.ts';

/** What a client is asked about one table. */
export function askingOf(client: AskedClient, table: string, refreshes: number): Asking {
  const { values, aggregates, mileposts, written } = client;
  const kept = new WeakMap<ChosenRows, Promise<AskableRows>>();
  return {
    refreshes,
    rows: (...rest) => client.rows(table, ...rest),
    groups: (...rest) => client.groups(table, ...rest),
    others: client.rows,
    askable: (rows) => {
      // The same rows are kept once, however much is asked of them.
      const known = kept.get(rows) ?? askableRows(client, table, rows);
      kept.set(rows, known);
      known.catch(() => kept.delete(rows));
      return known;
    },
    values: values && ((...rest) => values(table, ...rest)),
    aggregates: aggregates && ((...rest) => aggregates(table, ...rest)),
    written: written && ((...rest) => written(table, ...rest)),
    mileposts: mileposts && ((...rest) => mileposts(table, ...rest)),
  };
}
