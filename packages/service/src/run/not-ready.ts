import type { Progress } from '@ephoros/core/answer';

/** The answer is being found, and takes longer than a request waits. */
export class NotReady extends Error {
  /** A place of a result, or the whole answer. */
  readonly what: 'position' | 'answer';
  readonly progress: Progress;

  constructor(what: NotReady['what'], progress: Progress) {
    super(`the ${what} is not ready`);
    this.name = 'NotReady';
    this.what = what;
    this.progress = progress;
  }
}
