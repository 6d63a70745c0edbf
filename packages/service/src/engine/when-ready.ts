import { setTimeout } from 'node:timers/promises';
import { NotReady } from '../run/index.ts';

/** Ms between two looks whether an answer is ready. */
const between = 200;

/**
 * An answer that takes its time, for those who do not know how to ask again: it is waited for as long as the service
 * works on it and somebody waits. @throws Failure past the limit of long answers
 */
export async function whenReady<Answer>(
  signal: AbortSignal,
  ask: () => Promise<Answer>,
): Promise<Answer> {
  for (;;) {
    try {
      return await ask();
    } catch (thrown) {
      if (!(thrown instanceof NotReady)) throw thrown;
      await setTimeout(between, undefined, { signal });
    }
  }
}
