import { LRUCache } from 'lru-cache';
import { SignInUnavailable } from './refusals.ts';

/** Answers that are remembered at most. */
const most = 10_000;
/** Ms that an answer counts before it is requested again: as long as a token that was revoked may still be used. */
const fresh = 5_000;
/** Ms that it counts while nobody can be requested. */
const deferring = 15 * 60_000;

interface Known<Value> {
  readonly value: Value | undefined;
  readonly at: number;
}

/**
 * What every request needs of the records, remembered for a few seconds. While the records are away, what was
 * known within the last quarter of an hour goes on; of anything else nothing is known.
 */
export class Remembered<Value> {
  private readonly known = new LRUCache<string, Known<Value>>({ max: most });
  private readonly pending = new Map<string, Promise<Value | undefined>>();
  private readonly request: (key: string) => Promise<Value | undefined>;
  private readonly now: () => number;

  constructor(request: (key: string) => Promise<Value | undefined>, now: () => number = Date.now) {
    this.request = request;
    this.now = now;
  }

  /** @throws SignInAway */
  async get(key: string): Promise<Value | undefined> {
    const known = this.known.get(key);
    if (known !== undefined && this.now() - known.at < fresh) return known.value;
    const pending = this.pending.get(key) ?? this.renew(key);
    this.pending.set(key, pending);
    try {
      return await pending;
    } catch (thrown) {
      if (known?.value !== undefined && this.now() - known.at < deferring) return known.value;
      throw new SignInUnavailable(thrown);
    } finally {
      this.pending.delete(key);
    }
  }

  /** Whether it was found before, so that it is no guess. */
  has(key: string): boolean {
    return this.known.get(key)?.value !== undefined;
  }

  forget(key: string): void {
    this.known.delete(key);
  }

  /** Forgets every value that is meant. */
  forgetAll(isMeant: (value: Value) => boolean): void {
    for (const [key, { value }] of [...this.known.entries()]) {
      if (value !== undefined && isMeant(value)) this.known.delete(key);
    }
  }

  private async renew(key: string): Promise<Value | undefined> {
    const value = await this.request(key);
    this.known.set(key, { value, at: this.now() });
    return value;
  }
}
