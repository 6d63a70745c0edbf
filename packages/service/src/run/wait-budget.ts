/** What a caller does when its wait ends before the answer is ready. */
export type AfterWait =
  /** It gets the error of a query that takes too long. */
  | 'fail'
  /** It comes back for the answer later, and takes rows found so far and estimated totals until then. */
  | 'return'
  /** It does not want the answer any more: nothing is started, and what goes on for it alone is cancelled. */
  | 'cancel';

/** How long a request still waits, over everything that is done for it. */
export class WaitBudget {
  readonly afterWait: AfterWait;
  private readonly end: number;

  /** @param milliseconds from now on; none are left where the caller cancels */
  constructor(milliseconds: number, afterWait: AfterWait = 'return') {
    this.end = performance.now() + (afterWait === 'cancel' ? 0 : milliseconds);
    this.afterWait = afterWait;
  }

  /** Ms; 0 where it is used up. */
  get left(): number {
    return Math.max(0, this.end - performance.now());
  }
}
