import { Failure } from './failure.ts';

export interface ConnectionLimits {
  /** Who is inside at most. */
  readonly places: number;
  /** Who waits at most; past that the gate is shut at once. */
  readonly queue: number;
  /** How long one waits, in ms. */
  readonly patience: number;
}

interface Waiting {
  readonly admit: () => void;
}

/**
 * A bounded queue in front of the connections. Nobody waits behind a full queue; of those who
 * wait, the lanes (the tables that are asked) go in turn; and no lane takes all places or the
 * whole queue, so that one slow table leaves room for the others.
 */
export class ConnectionLimiter {
  private readonly options: ConnectionLimits;
  // Lanes in the order of their turns.
  private readonly lanes = new Map<string, Set<Waiting>>();
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
   * @throws Failure `full` at once where the queue is, and after the patience; `cancelled`
   */
  async enter(lane: string, signal?: AbortSignal): Promise<() => void> {
    if (signal?.aborted === true) throw new Failure('cancelled');
    if (!this.hasPlace(lane)) await this.wait(lane, signal);
    else this.count(lane, 1);
    let left = false;
    return () => {
      if (left) return;
      left = true;
      this.count(lane, -1);
      this.admitNext();
    };
  }

  private wait(lane: string, signal: AbortSignal | undefined): Promise<void> {
    const { queue, patience } = this.options;
    const line = this.lanes.get(lane) ?? new Set();
    const most = lane === '' ? queue : Math.ceil(queue * 0.75);
    if (this.waitingAll >= queue || line.size >= most) throw new Failure('full');
    this.lanes.set(lane, line);
    return new Promise((resolve, reject) => {
      const leave = (failure?: Failure): void => {
        clearTimeout(timer);
        signal?.removeEventListener('abort', onAbort);
        line.delete(waiting);
        if (line.size === 0) this.lanes.delete(lane);
        this.waitingAll -= 1;
        if (failure === undefined) resolve();
        else reject(failure);
      };
      const waiting: Waiting = { admit: () => leave() };
      const onAbort = (): void => leave(new Failure('cancelled'));
      const timer = setTimeout(() => leave(new Failure('full')), patience);
      signal?.addEventListener('abort', onAbort, { once: true });
      line.add(waiting);
      this.waitingAll += 1;
    });
  }

  private admitNext(): void {
    for (const [lane, line] of this.lanes) {
      const [first] = line;
      if (first === undefined || !this.hasPlace(lane)) continue;
      this.count(lane, 1);
      // The lane's next turn comes after the others'.
      this.lanes.delete(lane);
      this.lanes.set(lane, line);
      first.admit();
      return;
    }
  }

  private hasPlace(lane: string): boolean {
    const { places } = this.options;
    const most = lane === '' ? places : Math.max(1, places - Math.ceil(places / 4));
    return this.insideAll < places && (this.inside.get(lane) ?? 0) < most;
  }

  private count(lane: string, by: 1 | -1): void {
    this.insideAll += by;
    const now = (this.inside.get(lane) ?? 0) + by;
    if (now === 0) this.inside.delete(lane);
    else this.inside.set(lane, now);
  }
}
