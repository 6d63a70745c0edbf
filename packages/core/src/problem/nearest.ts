import { distance } from 'fastest-levenshtein';

/**
 * The candidate that was probably meant, or undefined when none is near: at most a third of
 * the letters may differ (two at least for names of four letters and more). Letter case is
 * ignored. Give only candidates that the caller may see.
 */
export function nearest(name: string, candidates: Iterable<string>): string | undefined {
  if (name.length > 100) return undefined;
  const wanted = name.toLowerCase();
  let best: string | undefined;
  let bestDistance = Math.max(name.length >= 4 ? 2 : 1, Math.floor(name.length / 3)) + 1;
  for (const candidate of candidates) {
    const away = distance(wanted, candidate.toLowerCase());
    if (away < bestDistance) {
      best = candidate;
      bestDistance = away;
    }
  }
  return best;
}
