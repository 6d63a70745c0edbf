import type { OnProgress } from '@ephoros/client';
import { useCallback, useEffect, useState } from 'react';

/** A request to a service: on its way, answered, or failed. */
export type Answer<Result> =
  /** `share` is how much of what takes long is done, 0 to 1; undefined where nobody has stated it. */
  | { readonly state: 'loading'; readonly share?: number }
  | { readonly state: 'ready'; readonly result: Result }
  | { readonly state: 'failed'; readonly error: Error; readonly retry: () => void };

const loading = { state: 'loading' } as const;

/** Asks once, and again on `retry`. Another function is another question; undefined asks nothing. */
export function useAnswer<Result>(
  request: ((signal: AbortSignal, onProgress: OnProgress) => Promise<Result>) | undefined,
): Answer<Result> {
  const [known, setKnown] = useState<{
    readonly request: unknown;
    readonly answer: Answer<Result>;
  }>();
  const [attempt, setAttempt] = useState(0);
  const retry = useCallback(() => {
    setKnown(undefined);
    setAttempt((last) => last + 1);
  }, []);
  useEffect(() => {
    if (request === undefined) return undefined;
    const controller = new AbortController();
    const put = (answer: Answer<Result>): void => {
      if (!controller.signal.aborted) setKnown({ request, answer });
    };
    const reportProgress: OnProgress = ({ share }) => put({ state: 'loading', share });
    request(controller.signal, reportProgress).then(
      (result) => put({ state: 'ready', result }),
      (thrown: unknown) => {
        const error = thrown instanceof Error ? thrown : new Error(String(thrown));
        put({ state: 'failed', error, retry });
      },
    );
    return () => controller.abort();
  }, [request, attempt, retry]);
  // What answers another question is no answer to this one.
  return known !== undefined && known.request === request ? known.answer : loading;
}
