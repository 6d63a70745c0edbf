import { inTime } from '../run/index.ts';

/** A connection that is held open for as long as it is wanted. */
export interface Opened {
  readonly close: () => Promise<void>;
  /** Resolves once the other side has answered. */
  readonly ping: () => Promise<unknown>;
}

/**
 * Opens a connection, unless the signal aborts; calls `lost` once it is open no longer. Rejects where there is none for
 * now.
 */
export type Opening = (lost: () => void, signal: AbortSignal) => Promise<Opened>;

/** Ms until a connection that broke is made again, the first time; doubled each time, up to the last. */
const firstPause = 1_000;
const lastPause = 30_000;
/** Ms between two looks whether the other side still answers, and how long that is waited for. */
const looks = 10_000;
const waitLimit = 5_000;
/** Ms that anyone who begins waits for it to be open. */
const soon = 2_000;

/** Holds a connection open while that is wanted, and opens it again when it breaks. */
export class HeldOpen {
  private readonly open: Opening;
  /** It is open again: what went through it meanwhile is not known. */
  private readonly gap: () => void;
  private timer: NodeJS.Timeout | undefined;
  private pause = firstPause;
  /** Aborts when it is wanted no longer. */
  private wish = new AbortController();
  private begun: Promise<void> | undefined;
  private opened: Opened | undefined;

  constructor(open: Opening, gap: () => void) {
    this.open = open;
    this.gap = gap;
  }

  /** Whether it is open at the moment. */
  get isOn(): boolean {
    return this.opened !== undefined;
  }

  /** Begins, where it has not; resolves when it is open, or is not soon. */
  async begin(): Promise<void> {
    this.begun ??= this.connect(this.wish.signal, false);
    await inTime(soon, this.begun).catch(() => undefined);
  }

  async end(): Promise<void> {
    this.wish.abort();
    this.wish = new AbortController();
    this.begun = undefined;
    this.pause = firstPause;
    clearTimeout(this.timer);
    const { opened } = this;
    this.opened = undefined;
    await opened?.close().catch(() => undefined);
  }

  private async connect(wish: AbortSignal, again: boolean): Promise<void> {
    const state = { isLost: false };
    const lost = (): void => {
      if (state.isLost) return;
      state.isLost = true;
      if (wish.aborted) return;
      const { opened } = this;
      this.opened = undefined;
      clearTimeout(this.timer);
      opened?.close().catch(() => undefined);
      this.timer = setTimeout(() => void this.connect(wish, true), this.pause);
      this.timer.unref();
      this.pause = Math.min(lastPause, this.pause * 2);
    };
    try {
      const opened = await this.open(lost, wish);
      if (wish.aborted || state.isLost) {
        await opened.close().catch(() => undefined);
        return;
      }
      this.opened = opened;
      this.pause = firstPause;
      this.watch(opened, lost);
      // Between two connections something may have been stated.
      if (again) this.gap();
    } catch {
      lost();
    }
  }

  /** A connection that nobody closes, and through which nothing comes, is found by requesting. */
  private watch(opened: Opened, lost: () => void): void {
    this.timer = setTimeout(() => {
      const answered = opened.ping().then(() => true);
      inTime(waitLimit, answered).then((is = false) => {
        if (!is) lost();
        else if (this.opened === opened) this.watch(opened, lost);
      }, lost);
    }, looks);
    this.timer.unref();
  }
}
