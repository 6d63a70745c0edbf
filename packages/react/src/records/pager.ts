import type { Row, WrittenQuery } from '@ephoros/client';
import type { TableDescription } from '@ephoros/core/schema';
import type { View } from '@ephoros/core/view';
import { pageCount } from '@ephoros/core/window';
import type { ChangeView } from '../state/use-view.ts';

/** The pages of a result, counted from 1. */
export interface Pager {
  readonly page: number;
  /** Undefined where nobody counts. */
  readonly count: number | undefined;
  readonly size: number;
  /** The sizes that are offered; the first one is the default. */
  readonly sizes: readonly number[];
  readonly goTo: (page: number) => void;
  readonly setSize: (size: number) => void;
  readonly hasNext: boolean;
  readonly hasPrevious: boolean;
}

/** The page that a view is at, and its first row (from 0), which an offset may put anywhere. */
export function pageOf(
  { place }: View,
  size: number,
): { readonly number: number; readonly from: number } {
  if (place?.kind === 'offset') {
    return { number: Math.floor(place.offset / size) + 1, from: place.offset };
  }
  const number = place?.page ?? 1;
  return { number, from: (number - 1) * size };
}

interface Paged {
  readonly page: number;
  readonly size: number;
  readonly total: number | undefined;
  readonly open: boolean;
  readonly description: TableDescription | undefined;
  readonly base: WrittenQuery;
  /** The rows of the page. */
  readonly rows: readonly (Row | undefined)[];
  readonly change: ChangeView;
}

const usual = [50, 100, 200];

/** The pages around the one that a view is at. */
export function pagerOf(paged: Paged): Pager {
  const { page, size, total, open, description, base, rows, change } = paged;
  const count = total === undefined || open ? undefined : Math.max(1, pageCount(total, size));
  const sizes = withSize(description?.pageSizes ?? usual, base.limit);
  return {
    page,
    count,
    size,
    sizes,
    goTo: (wanted) => {
      const to = Math.max(1, Math.min(wanted, count ?? Infinity));
      change({ place: to === 1 ? undefined : { kind: 'page', page: to } });
    },
    setSize: (limit) => change({ limit: limit === sizes[0] ? undefined : limit, place: undefined }),
    hasPrevious: page > 1,
    hasNext: count === undefined ? rows.some((row) => row !== undefined) : page < count,
  };
}

/** Sizes of pages, the one that is requested anyway before the others. */
function withSize(offered: readonly number[], own: number | undefined): readonly number[] {
  return own === undefined ? offered : [own, ...offered.filter((size) => size !== own)];
}
