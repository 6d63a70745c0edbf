import type { TellProgress } from '@ephoros/client';
import { useCallback, useEffect, useState } from 'react';

/** Something asked of a service: on its way, there, or failed. */
export type Answer<Result> =
  /** `share` is how much of what takes long is done, 0 to 1; undefined where nobody has said it. */
  | { readonly state: 'loading'; readonly share?: number }
  | { readonly state: 'ready'; readonly result: Result }
  | { readonly state: 'failed'; readonly error: Error; readonly retry: () => void };

const loading = { state: 'loading' } as const;

/** Asks once, and again on `retry`. Another function is another question; undefined asks nothing. */
export function useAnswer<Result>(
  ask: ((signal: AbortSignal, told: TellProgress) => Promise<Result>) | undefined,
): Answer<Result> {
  const [known, setKnown] = useState<{ readonly ask: unknown; readonly answer: Answer<Result> }>();
  const [attempt, setAttempt] = useState(0);
  const retry = useCallback(() => {
    setKnown(undefined);
    setAttempt((last) => last + 1);
  }, []);
  useEffect(() => {
    if (ask === undefined) return undefined;
    const controller = new AbortController();
    const put = (answer: Answer<Result>): void => {
      if (!controller.signal.aborted) setKnown({ ask, answer });
    };
    const told: TellProgress = ({ share }) => put({ state: 'loading', share });
    ask(controller.signal, told).then(
      (result) => put({ state: 'ready', result }),
      (thrown: unknown) => {
        const error = thrown instanceof Error ? thrown : new Error(String(thrown));
        put({ state: 'failed', error, retry });
      },
    );
    return () => controller.abort();
  }, [ask, attempt, retry]);
  // What answers another question is no answer to this one.
  return known !== undefined && known.ask === ask ? known.answer : loading;
}
