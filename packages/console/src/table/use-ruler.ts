import type { CheckedQuery } from '@ephoros/core/check';
import type { TableDescription } from '@ephoros/core/schema';
import { rulerTicks, useRuler as useRulerOf, type RulerContent } from '@ephoros/react';
import { useCallback } from 'react';
import { client, reader } from '../service.ts';
import type { View } from './view-state.ts';

/** What the ruler of a continuous reading says; undefined where there is none. */
export function useRuler(
  view: View,
  table: TableDescription,
  { sort }: CheckedQuery,
  total: number | undefined,
): RulerContent | undefined {
  const { query, reading, texts } = view;
  const column = sort[0]?.column;
  const wanted = reading === 'scroll' && table.key.length > 0 && column !== undefined;
  const ask = useCallback(
    (signal: AbortSignal) => client.mileposts(table.name, query, rulerTicks, signal),
    // The texts stand for the query, which is made anew at every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, texts.filter, texts.search, texts.sort, texts.nulls],
  );
  return useRulerOf(wanted ? ask : undefined, column, total, reader);
}
