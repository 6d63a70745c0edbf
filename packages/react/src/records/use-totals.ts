import type { AggregatesAnswer, Looking, TellProgress, WrittenQuery } from '@ephoros/client';
import { useCallback } from 'react';
import { useAnswer, type Answer } from '../use-answer.ts';
import type { Asking } from './asked-client.ts';

/**
 * The aggregates of the whole result: they follow the condition. Undefined where nothing is made of
 * the rows, or nobody can be asked; and while the rows are still being looked for (`looking`), beside which nothing
 * else is asked.
 */
export function useTotals(
  ask: Asking | undefined,
  match: WrittenQuery,
  aggregate: WrittenQuery['aggregate'],
  looking: Looking | undefined,
): Answer<AggregatesAnswer | undefined> | undefined {
  const asked = ask?.aggregates;
  const made = aggregate !== undefined && aggregate.length > 0;
  const wanted = asked !== undefined && made && looking?.kind !== 'searching';
  const question = useCallback(
    async (signal: AbortSignal, told: TellProgress) =>
      asked?.({ ...match, ...(aggregate && { aggregate }) }, signal, told),
    [asked, match, aggregate],
  );
  const answer = useAnswer(wanted ? question : undefined);
  return wanted ? answer : undefined;
}
