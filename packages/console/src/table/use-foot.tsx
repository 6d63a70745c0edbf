import type { AggregatesAnswer } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { useCallback, useMemo, type ReactNode } from 'react';
import { useAnswer } from '../answer.ts';
import { client } from '../service.ts';
import { AggregateCell, columnOfTerm } from './aggregate-cell.tsx';
import type { View } from './view-state.ts';

/** Aggregates, and the question that they answer. */
interface Answered {
  readonly question: string;
  readonly answer: AggregatesAnswer | undefined;
}

/**
 * The aggregates of the whole result for the foot of the table: what stands under a column, or
 * those chosen otherwise; undefined where the view has no aggregates. They follow the filter.
 */
export function useFoot(
  { query, texts }: View,
  table: TableDescription,
): (column: string | undefined, chosen?: (term: Term) => boolean) => (() => ReactNode) | undefined {
  const { filter, search, aggregate } = texts;
  const question = JSON.stringify([filter, search, aggregate]);
  const ask = useCallback(
    async (signal: AbortSignal): Promise<Answered> => ({
      question,
      answer:
        query.aggregate === undefined
          ? undefined
          : await client.aggregates(table.name, query, signal),
    }),
    // The question stands for the query, which is made anew with every change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, question],
  );
  const answer = useAnswer(ask);
  // Another place in the address is another query, but the same aggregates.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const terms = useMemo(() => query.aggregate, [aggregate]);
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
        // What was made for another filter is not shown for this one.
        const made = answer.state === 'ready' ? answer.result : undefined;
        if (made?.answer === undefined || made.question !== question) {
          return own.length === 0 ? null : <span className="text-faint">…</span>;
        }
        const { aggregates, values } = made.answer;
        return <AggregateCell terms={own} columns={aggregates} values={values} />;
      };
    },
    [answer, terms, question],
  );
}
