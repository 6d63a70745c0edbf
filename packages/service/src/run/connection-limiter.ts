import { Failure } from './failure.ts';

export interface ConnectionLimits {
  /** Who is inside at most. */
  readonly places: number;
  /** Who waits at most; past that the gate is shut at once. */
  readonly queue: number;
  /** How long one waits, in ms. */
  readonly waitLimit: number;
}

interface Waiting {
  readonly admit: () => void;
}

/**
 * A bounded queue in front of the connections. Nobody waits behind a full queue; of those who
 * wait, the lanes (the tables that are queried) go in turn; and no lane takes all places or the
 * whole queue, so that one slow table leaves room for the others.
 */
export class ConnectionLimiter {
  private readonly options: ConnectionLimits;
  // Lanes in the order of their turns.
  private readonly pools = new Map<string, Set<Waiting>>();
  private readonly inside = new Map<string, number>();
  private insideAll = 0;
  private waitingAll = 0;

  constructor(options: ConnectionLimits) {
    this.options = options;
  }

  /** How many wait. */
  get waiting(): number {
    return this.waitingAll;
  }

  /**
   * Resolves when inside, to what must be called to leave. `lane` is empty for what belongs to
   * no table and may take every place.
   * @throws Failure `full` at once where the queue is, and after the wait limit; `cancelled`
   */
  async enter(pool: string, signal?: AbortSignal): Promise<() => void> {
    if (signal?.aborted === true) throw new Failure('cancelled');
    if (!this.hasPlace(pool)) await this.wait(pool, signal);
    else this.count(pool, 1);
    let left = false;
    return () => {
      if (left) return;
      left = true;
      this.count(pool, -1);
      this.admitNext();
    };
  }

  private wait(pool: string, signal: AbortSignal | undefined): Promise<void> {
    const { queue, waitLimit } = this.options;
    const line = this.pools.get(pool) ?? new Set();
    const most = pool === '' ? queue : Math.ceil(queue * 0.75);
    if (this.waitingAll >= queue || line.size >= most) throw new Failure('full');
    this.pools.set(pool, line);
    return new Promise((resolve, reject) => {
      const leave = (failure?: Failure): void => {
        clearTimeout(timer);
        signal?.removeEventListener('abort', onAbort);
        line.delete(waiting);
        if (line.size === 0) this.pools.delete(pool);
        this.waitingAll -= 1;
        if (failure === undefined) resolve();
        else reject(failure);
      };
      const waiting: Waiting = { admit: () => leave() };
      const onAbort = (): void => leave(new Failure('cancelled'));
      const timer = setTimeout(() => leave(new Failure('full')), waitLimit);
      signal?.addEventListener('abort', onAbort, { once: true });
      line.add(waiting);
      this.waitingAll += 1;
    });
  }

  private admitNext(): void {
    for (const [pool, line] of this.pools) {
      const [first] = line;
      if (first === undefined || !this.hasPlace(pool)) continue;
      this.count(pool, 1);
      // The lane's next turn comes after the others'.
      this.pools.delete(pool);
      this.pools.set(pool, line);
      first.admit();
      return;
    }
  }

  private hasPlace(pool: string): boolean {
    const { places } = this.options;
    const most = pool === '' ? places : Math.max(1, places - Math.ceil(places / 4));
    return this.insideAll < places && (this.inside.get(pool) ?? 0) < most;
  }

  private count(pool: string, by: 1 | -1): void {
    this.insideAll += by;
    const now = (this.inside.get(pool) ?? 0) + by;
    if (now === 0) this.inside.delete(pool);
    else this.inside.set(pool, now);
  }
}
