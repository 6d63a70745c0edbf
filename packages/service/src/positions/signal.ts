/** Notifies those who wait that something has changed. */
export class Signal {
  private waiting: (() => void)[] = [];

  ring(): void {
    const { waiting } = this;
    this.waiting = [];
    for (const wake of waiting) wake();
  }

  /** Resolves with the next ring, after so many ms, or when the signal aborts; never rejects. */
  wait(milliseconds: number, signal?: AbortSignal): Promise<void> {
    if (signal?.aborted === true || milliseconds <= 0) return Promise.resolve();
    return new Promise((resolve) => {
      const done = (): void => {
        clearTimeout(timer);
        signal?.removeEventListener('abort', done);
        resolve();
      };
      const timer = setTimeout(done, milliseconds);
      signal?.addEventListener('abort', done, { once: true });
      this.waiting.push(done);
    });
  }
}
