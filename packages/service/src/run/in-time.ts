import { setTimeout } from 'node:timers/promises';

/** What a promise gives within so many ms; undefined where it takes longer, or where nobody waits any more. */
export async function inTime<Result>(
  milliseconds: number,
  work: Promise<Result>,
  signal?: AbortSignal,
): Promise<Result | undefined> {
  const done = new AbortController();
  const until = signal === undefined ? done.signal : AbortSignal.any([signal, done.signal]);
  const late = setTimeout(milliseconds, undefined, { signal: until }).catch(() => undefined);
  try {
    return await Promise.race([work, late]);
  } finally {
    done.abort();
  }
}
