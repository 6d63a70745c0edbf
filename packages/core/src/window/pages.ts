/** How many pages of `size` rows a total makes; an empty result has one, empty, page. */
export function pageCount(total: number, size: number): number {
  return Math.max(1, Math.ceil(total / size));
}

/** Pages of one set. */
const pagesOfSet = 5;

/** A set of page numbers that follow each other, and where the sets next to it begin. */
export interface PageSet {
  readonly pages: readonly number[];
  /** The last page before the set, and the first one behind it; undefined where there is none. */
  readonly earlier: number | undefined;
  readonly later: number | undefined;
}

/**
 * The set that a page lies in: 1 to 5, 6 to 10, and so on. `count` is the last page there is, or the
 * last one that is known of.
 */
export function pageSet(page: number, count: number): PageSet {
  const first = page - ((page - 1) % pagesOfSet);
  const last = Math.max(page, Math.min(count, first + pagesOfSet - 1));
  return {
    pages: Array.from({ length: last - first + 1 }, (_, index) => first + index),
    earlier: first > 1 ? first - 1 : undefined,
    later: last < count ? last + 1 : undefined,
  };
}
