/** The first pause, and the longest, in ms. */
const first = 500;
const longest = 10_000;

/**
 * Ms to wait before a failed question is requested again, after so many failures in a row (from 1):
 * twice as long each time, and not when everybody else does.
 * @param least what the service itself has requested, in ms
 * @param random from 0 up to 1
 */
export function pauseAfter(failures: number, least = 0, random = Math.random()): number {
  const pause = Math.min(longest, first * 2 ** (failures - 1));
  return Math.round(Math.max(least, pause) * (0.8 + 0.4 * random));
}
