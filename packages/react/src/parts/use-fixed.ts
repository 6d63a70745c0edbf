import type { Expression } from '@ephoros/core/expression';
import { useCallback } from 'react';
import { conditionRequest } from '../records/opening.ts';
import { useAnswer } from '../use-answer.ts';
import { useModel } from './table-context.ts';

/** The condition that no reader can remove, once it is read. */
export function useFixed(): Expression | undefined {
  const { fixed } = useModel();
  const text = typeof fixed === 'string' ? fixed : undefined;
  const request = useCallback(
    async () => (text === undefined ? undefined : conditionRequest(text)),
    [text],
  );
  const answer = useAnswer(text === undefined ? undefined : request);
  if (typeof fixed === 'object') return fixed;
  return answer.state === 'ready' ? answer.result : undefined;
}
