import { isUnchanged, type Written } from './changes.ts';

/** Written since, as a share of the rows: past the first it is renewed, past the second useless. */
const staleShare = 0.0005;
const uselessShare = 0.1;
/** Places are found again, once anything was written, after so many times as long as it took. */
const placesGoodFor = 5;
const shortestStaleTime = 1_000;

/** What was made of a result: the rows it reaches over, in ms what it took, what was written by then. */
interface Made {
  readonly changes: Written | undefined;
  readonly reach: number;
  readonly took: number;
  /** Undefined for mileposts. */
  readonly places: object | undefined;
}

/** What has become of mileposts or places: as they were, older than what was written since, to be made again, useless. */
export type Staleness = 'unchanged' | 'outdated' | 'renew' | 'useless';

/**
 * What a whole entry is worth by now.
 * @param found what has been written to its tables by now
 * @param since ms since it was made
 */
export function stalenessOf(
  { changes, reach, places, took }: Made,
  found: Written | undefined,
  since: number,
  { staleAfter, age }: { readonly staleAfter: number; readonly age: number },
): Staleness {
  if (isUnchanged(changes, found)) return 'unchanged';
  const known = changes !== undefined && found !== undefined;
  const written = known ? found.rows - changes.rows : undefined;
  const rows = Math.max(1, reach);
  const others = known && found.files !== changes.files;
  // A small table may decide where the rows of a large one stand: each is weighed by its own size.
  const share = known ? largestShare(changes, found) : 0;
  const isUseless = written !== undefined && written > rows * uselessShare;
  if (others || isUseless || share > uselessShare) return 'useless';
  const byPlaces = places !== undefined;
  const worth = took * placesGoodFor;
  const soon = byPlaces ? Math.max(worth, Math.min(shortestStaleTime, staleAfter)) : staleAfter;
  if (since < soon) return 'outdated';
  const much = written === undefined || written > rows * staleShare || share > staleShare;
  return byPlaces || much || since > age ? 'renew' : 'outdated';
}

/** The largest share of its own rows that was written to one of the tables; one of unknown size has none. */
function largestShare({ tables: before = [] }: Written, { tables: now = [] }: Written): number {
  const shares = now.map(({ rows, size }, at) => {
    const written = rows - (before[at]?.rows ?? rows);
    return size === 0 ? 0 : written / size;
  });
  return Math.max(0, ...shares);
}
