import type { AggregatesAnswer, ScanProgress, OnProgress, WrittenQuery } from '@ephoros/client';
import { useCallback } from 'react';
import { useAnswer, type Answer } from '../use-answer.ts';
import type { QueryOptions } from './request-client.ts';

/**
 * The aggregates of the whole result: they follow the condition. Undefined where nothing is made of
 * the rows, or nobody can be requested; and while the rows are still being looked for (`looking`), next to which nothing
 * else is queried.
 */
export function useTotals(
  request: QueryOptions | undefined,
  match: WrittenQuery,
  aggregate: WrittenQuery['aggregate'],
  scan: ScanProgress | undefined,
): Answer<AggregatesAnswer | undefined> | undefined {
  const pending = request?.aggregates;
  const made = aggregate !== undefined && aggregate.length > 0;
  const wanted = pending !== undefined && made && scan?.kind !== 'searching';
  const query = useCallback(
    async (signal: AbortSignal, onProgress: OnProgress) =>
      pending?.({ ...match, ...(aggregate && { aggregate }) }, signal, onProgress),
    [pending, match, aggregate],
  );
  const answer = useAnswer(wanted ? query : undefined);
  return wanted ? answer : undefined;
}
