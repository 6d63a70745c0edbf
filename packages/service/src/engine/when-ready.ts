import { setTimeout } from 'node:timers/promises';
import { Failure, NotReady } from '../run/index.ts';

/** Ms between two looks whether an answer is ready. */
const between = 200;

/**
 * An answer that takes its time, for those who do not know how to ask again: it is waited for as long as the service
 * works on it and somebody waits. @throws Failure past the limit of long answers, or where nobody waits any more
 */
export async function whenReady<Answer>(
  signal: AbortSignal,
  request: () => Promise<Answer>,
): Promise<Answer> {
  for (;;) {
    try {
      return await request();
    } catch (thrown) {
      if (!(thrown instanceof NotReady)) throw thrown;
      await setTimeout(between, undefined, { signal }).catch((cause: unknown) => {
        throw new Failure('cancelled', cause);
      });
    }
  }
}
