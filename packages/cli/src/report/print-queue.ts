/** Pages of one caller that are printed or wait for it at most. */
const mostOfOne = 3;

/** A caller has as many pages in print as one may have. */
export class TooManyPagesError extends Error {
  /** Seconds after which one of them is done as a rule. */
  readonly retryAfter = 10;

  constructor() {
    super(`You have ${mostOfOne} PDFs in the making. Ask again when one of them is done.`);
    this.name = 'TooManyPagesError';
  }
}

interface Job {
  readonly work: () => Promise<void>;
}

/**
 * Work that is done one after the other, since each takes a browser's memory: the callers take turns, so that nobody
 * waits for all pages of another one.
 */
export class PrintQueue {
  private readonly waiting = new Map<string, Job[]>();
  private readonly counts = new Map<string, number>();
  private isWorking = false;

  /** Does the work when it is the caller's turn. @throws TooManyPagesError */
  add<Result>(caller: string, work: () => Promise<Result>): Promise<Result> {
    const count = this.counts.get(caller) ?? 0;
    if (count >= mostOfOne) return Promise.reject(new TooManyPagesError());
    this.counts.set(caller, count + 1);
    return new Promise((resolve, reject) => {
      const job = { work: () => work().then(resolve, reject) };
      this.waiting.set(caller, [...(this.waiting.get(caller) ?? []), job]);
      void this.next();
    });
  }

  private async next(): Promise<void> {
    if (this.isWorking) return;
    const [turn] = this.waiting;
    if (turn === undefined) return;
    const [caller, [job, ...others]] = turn;
    // Behind everybody else who waits.
    this.waiting.delete(caller);
    if (others.length > 0) this.waiting.set(caller, others);
    this.isWorking = true;
    await job?.work();
    this.isWorking = false;
    const left = (this.counts.get(caller) ?? 1) - 1;
    if (left > 0) this.counts.set(caller, left);
    else this.counts.delete(caller);
    void this.next();
  }
}
