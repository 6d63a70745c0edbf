import type { MilepostsAnswer } from '@ephoros/client';
import { useEffect, useState } from 'react';

/** Ms between two questions while the mileposts are being set. */
const pause = 400;
/** Ms before a failure is tried again. */
const longPause = 10_000;

/**
 * The mileposts of a result, requested until they are ready; undefined before the first answer.
 * @param request asks for them; another function is another result, undefined asks for nothing
 */
export function useMileposts(
  request: ((signal: AbortSignal) => Promise<MilepostsAnswer>) | undefined,
): MilepostsAnswer | undefined {
  const [known, setKnown] = useState<{
    readonly request: unknown;
    readonly answer: MilepostsAnswer;
  }>();
  useEffect(() => {
    if (request === undefined) return undefined;
    const controller = new AbortController();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const again = async (): Promise<void> => {
      let wait = pause;
      try {
        const answer = await request(controller.signal);
        if (controller.signal.aborted) return;
        setKnown({ request, answer });
        if (answer.state === 'ready') return;
        if (answer.state === 'failed') wait = longPause;
      } catch {
        // The rows themselves say when the service is away.
        wait = longPause;
      }
      if (!controller.signal.aborted) timer = setTimeout(() => void again(), wait);
    };
    void again();
    return () => {
      controller.abort();
      clearTimeout(timer);
    };
  }, [request]);
  return known !== undefined && known.request === request ? known.answer : undefined;
}
