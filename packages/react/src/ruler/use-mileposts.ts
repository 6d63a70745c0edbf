import type { MilepostsAnswer } from '@ephoros/client';
import { useEffect, useState } from 'react';

/** Ms between two questions while the mileposts are being set. */
const pause = 400;
/** Ms before a failure is tried again. */
const longPause = 10_000;

/**
 * The mileposts of a result, asked for until they are ready; undefined before the first answer.
 * @param ask asks for them; another function is another result, undefined asks for nothing
 */
export function useMileposts(
  ask: ((signal: AbortSignal) => Promise<MilepostsAnswer>) | undefined,
): MilepostsAnswer | undefined {
  const [known, setKnown] = useState<{ readonly ask: unknown; readonly answer: MilepostsAnswer }>();
  useEffect(() => {
    if (ask === undefined) return undefined;
    const controller = new AbortController();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const again = async (): Promise<void> => {
      let wait = pause;
      try {
        const answer = await ask(controller.signal);
        if (controller.signal.aborted) return;
        setKnown({ ask, answer });
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
  }, [ask]);
  return known !== undefined && known.ask === ask ? known.answer : undefined;
}
