/** How long a request still waits, whatever is done for it one after the other. */
export class WaitBudget {
  private readonly end: number;

  /** @param milliseconds from now on */
  constructor(milliseconds: number) {
    this.end = performance.now() + milliseconds;
  }

  /** Ms; 0 where it is used up. */
  get left(): number {
    return Math.max(0, this.end - performance.now());
  }
}
