import { useCallback, useEffect, useState } from 'react';

/** Something asked of the service: on its way, there, or failed. */
export type Answer<Result> =
  | { readonly state: 'loading' }
  | { readonly state: 'ready'; readonly result: Result }
  | { readonly state: 'failed'; readonly error: Error; readonly retry: () => void };

/** Asks once, and again on `retry`. `ask` must keep its identity between drawings. */
export function useAnswer<Result>(ask: (signal: AbortSignal) => Promise<Result>): Answer<Result> {
  const [answer, setAnswer] = useState<Answer<Result>>({ state: 'loading' });
  const [attempt, setAttempt] = useState(0);
  const retry = useCallback(() => {
    setAnswer({ state: 'loading' });
    setAttempt((last) => last + 1);
  }, []);
  useEffect(() => {
    const controller = new AbortController();
    ask(controller.signal).then(
      (result) => setAnswer({ state: 'ready', result }),
      (thrown: unknown) => {
        if (controller.signal.aborted) return;
        const error = thrown instanceof Error ? thrown : new Error(String(thrown));
        setAnswer({ state: 'failed', error, retry });
      },
    );
    return () => controller.abort();
  }, [ask, attempt, retry]);
  return answer;
}
