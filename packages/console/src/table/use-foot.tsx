import type { AggregatesAnswer } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { useCallback, type ReactNode } from 'react';
import { useAnswer } from '../answer.ts';
import { client } from '../service.ts';
import { AggregateCell, columnOfTerm } from './aggregate-cell.tsx';
import type { View } from './view-state.ts';

/**
 * The aggregates of the whole result for the foot of the table: what stands under a column, or
 * those chosen otherwise; undefined where the view has no aggregates. They follow the filter.
 */
export function useFoot(
  { query, texts }: View,
  table: TableDescription,
): (column: string | undefined, chosen?: (term: Term) => boolean) => (() => ReactNode) | undefined {
  const { filter, search, aggregate } = texts;
  const ask = useCallback(
    (signal: AbortSignal): Promise<AggregatesAnswer | undefined> =>
      query.aggregate === undefined
        ? Promise.resolve(undefined)
        : client.aggregates(table.name, query, signal),
    // The texts stand for the query, which is made anew with every change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, filter, search, aggregate],
  );
  const answer = useAnswer(ask);
  const terms = query.aggregate;
  return useCallback(
    (column, chosen = ({ expression }) => columnOfTerm(expression) === column) => {
      const own = (terms ?? []).filter(chosen);
      if (terms === undefined || terms.length === 0) return undefined;
      return () => {
        if (answer.state === 'failed') {
          return own.length === 0 ? null : (
            <button type="button" className="cursor-pointer text-fault" onClick={answer.retry}>
              failed, try again
            </button>
          );
        }
        if (answer.state === 'loading' || answer.result === undefined) {
          return own.length === 0 ? null : <span className="text-faint">…</span>;
        }
        const { aggregates, values } = answer.result;
        return <AggregateCell terms={own} columns={aggregates} values={values} />;
      };
    },
    [answer, terms],
  );
}
