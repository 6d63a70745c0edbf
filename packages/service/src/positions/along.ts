import type { IndexEntry } from './index-entry.ts';
import type { Along } from './making.ts';

/** Ms after which anyone who waits looks again, even without a notification. */
export const longestWait = 250;

/**
 * The order that chunks are cut along, by its entry.
 * @param touched is called whenever it is waited for, so that it is not given up
 */
export function alongOf(entry: IndexEntry, touched: () => void): Along {
  let { samples } = entry;
  let complete = false;
  return {
    state: () => {
      if (samples.reach === 0) samples = entry.samples;
      const same = samples === entry.samples;
      // Mileposts that are set again stand elsewhere: the chunks go on along the ones they began with.
      complete ||= same && entry.complete;
      const ended = entry.making === undefined && !entry.complete;
      return { samples, complete, failed: !complete && (entry.failed || ended || !same) };
    },
    changed: async (signal) => {
      touched();
      await entry.changeSignal.wait(longestWait, signal);
    },
  };
}
