import type { AggregatesAnswer, WrittenQuery } from '@ephoros/client';
import { useCallback } from 'react';
import { useAnswer, type Answer } from '../use-answer.ts';
import type { Asking } from './asked-client.ts';

/**
 * The aggregates of the whole result: they follow the condition. Undefined where nothing is made of
 * the rows, or nobody can be asked.
 */
export function useTotals(
  ask: Asking | undefined,
  match: WrittenQuery,
  aggregate: WrittenQuery['aggregate'],
): Answer<AggregatesAnswer | undefined> | undefined {
  const asked = ask?.aggregates;
  const wanted = asked !== undefined && aggregate !== undefined && aggregate.length > 0;
  const question = useCallback(
    async (signal: AbortSignal) => asked?.({ ...match, ...(aggregate && { aggregate }) }, signal),
    [asked, match, aggregate],
  );
  const answer = useAnswer(wanted ? question : undefined);
  return wanted ? answer : undefined;
}
