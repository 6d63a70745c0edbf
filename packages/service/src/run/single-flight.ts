import { Failure } from './failure.ts';

interface Running<Result> {
  readonly result: Promise<Result>;
  readonly controller: AbortController;
  waiting: number;
}

/** Work that is requested while the same work is under way is done once for all who requested. */
export class SingleFlight<Result> {
  private readonly running = new Map<string, Running<Result>>();

  /**
   * Joins the work of that name, or begins it. It is aborted when all who requested are gone.
   * @throws Failure `cancelled` as soon as the signal aborts, anyone who else still waits
   */
  async join(
    name: string,
    work: (signal: AbortSignal) => Promise<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    if (signal?.aborted === true) throw new Failure('cancelled');
    const shared = this.running.get(name) ?? this.begin(name, work);
    shared.waiting += 1;
    let gone = (): void => undefined;
    const left = new Promise<never>((_resolve, reject) => {
      gone = () => {
        this.leave(name, shared);
        reject(new Failure('cancelled'));
      };
    });
    signal?.addEventListener('abort', gone, { once: true });
    try {
      return await Promise.race([shared.result, left]);
    } finally {
      signal?.removeEventListener('abort', gone);
    }
  }

  private begin(name: string, work: (signal: AbortSignal) => Promise<Result>): Running<Result> {
    const controller = new AbortController();
    const result = work(controller.signal).finally(() => {
      if (this.running.get(name) === shared) this.running.delete(name);
    });
    // Those who wait are notified; nobody is where nobody waits any more.
    result.catch(() => undefined);
    const shared: Running<Result> = { result, controller, waiting: 0 };
    this.running.set(name, shared);
    return shared;
  }

  private leave(name: string, shared: Running<Result>): void {
    shared.waiting -= 1;
    if (shared.waiting > 0) return;
    // The caller from now on begins again.
    if (this.running.get(name) === shared) this.running.delete(name);
    shared.controller.abort();
  }
}
