import type { Progress, Window } from '@ephoros/core/answer';
import type { ScanProgress } from './row-source.ts';

/** Ms until what is being looked for is requested again: at once where rows are missing, else now and then. */
const soon = 150;
const later = 1_000;

/** How far a service is with what takes long, and when it is requested again. */
export class RunningScan {
  private readonly again: () => void;
  private finding: Progress | undefined;
  private scanned: Window['scanned'];
  private stopped = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** @param again asks again for what is looked at */
  constructor(again: () => void) {
    this.again = again;
  }

  /** Whether the result is being looked through: it grows, and no cursor leads from block to block. */
  get searches(): boolean {
    return this.scanned !== undefined;
  }

  /** What is not there yet, since it is being found. */
  notYet(progress: Progress): void {
    this.finding = progress;
  }

  /** An answer came; `whole` where it has all rows that a window may have. */
  came({ scanned }: Window, whole: boolean): void {
    this.finding = undefined;
    this.scanned = scanned;
    if (scanned === undefined) this.stopped = false;
    else if (!this.stopped) this.schedule(whole ? later : soon);
  }

  /** What is stated about it; `missing` where rows that are looked at are not there. */
  progress(missing: boolean): ScanProgress | undefined {
    if (missing && this.finding !== undefined) {
      return { kind: 'finding', share: this.finding.share };
    }
    return this.scanned && { kind: 'searching', ...this.scanned, stopped: this.stopped };
  }

  stop(): void {
    if (!this.searches) return;
    this.stopped = true;
    clearTimeout(this.timer);
  }

  goOn(): void {
    this.stopped = false;
  }

  close(): void {
    clearTimeout(this.timer);
  }

  private schedule(milliseconds: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(this.again, milliseconds);
  }
}
