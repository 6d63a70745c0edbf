import { useEffect, useState } from 'react';
import { countExactly } from '@ephoros/client';
import type { TableSummary } from '@ephoros/core/schema';
import { client } from '../service.ts';

/** Tables with more estimated rows are not counted for the list. */
const mostRows = 10_000;
/** Tables of one list that are counted. */
const mostTables = 60;
/** Counts that run at the same time. */
const parallel = 4;

/** The exact numbers of rows of small tables, as far as they are known; counted after the list is shown. */
export function useExactCounts(tables: readonly TableSummary[]): ReadonlyMap<string, number> {
  const [counts, setCounts] = useState<ReadonlyMap<string, number>>(new Map());
  useEffect(() => {
    const leaving = new AbortController();
    const waiting = tables
      .filter(({ estimatedRows }) => estimatedRows !== null && estimatedRows <= mostRows)
      .slice(0, mostTables);
    const countNext = async (): Promise<void> => {
      for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
        const { name } = next;
        const { query } = client.table(name);
        const count = await countExactly(
          (wanted, signal) => client.rows(name, wanted, signal),
          query,
          leaving.signal,
        );
        if (leaving.signal.aborted) return;
        if (count === undefined) continue;
        setCounts((known) => new Map(known).set(name, count));
      }
    };
    for (let count = 0; count < parallel; count += 1) void countNext();
    return () => leaving.abort();
  }, [tables]);
  return counts;
}
