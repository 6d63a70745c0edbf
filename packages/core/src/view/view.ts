import type { Value } from '../answer/index.ts';
import type { Place, Query } from '../query/index.ts';
import type { Chart, ChartSide } from './chart.ts';
import type { PaintRule } from './paint.ts';

/** How the rows are read: page by page, as one long scroll, or page after page by requesting more. */
export const readings = ['pages', 'scroll', 'more'] as const;

export type Reading = (typeof readings)[number];

/** How much room a row takes. */
export const densities = ['compact', 'normal', 'roomy'] as const;

export type Density = (typeof densities)[number];

/** How rows lie: one below the other, or side by side, their columns down the page. */
export const layouts = ['down', 'across'] as const;

export type Layout = (typeof layouts)[number];

/** How rows are set: every other one tinted, with their numbers, long text over several lines. */
export const rowStyles = ['striped', 'numbered', 'wrapped'] as const;

export type RowStyle = (typeof rowStyles)[number];

/** How high the table is: as high as the page has room, or as its rows need. */
export const heights = ['page', 'content'] as const;

export type Height = (typeof heights)[number];

/** The values of an open group and of those around it, the outermost first; as answers hold them. */
export type OpenGroup = readonly Value[];

/** Where a view is: at a page (from 1), or at a row (from 0). Cursors belong to single requests. */
export type ViewPlace = Extract<Place, { kind: 'page' | 'offset' }>;

/**
 * A query and how it is shown, as one plain value. What is absent is at its default: of the
 * query as `Query` says it, of the rest as the page says that shows it.
 *
 * `columns` are those shown, in their order. An empty `group` or `aggregate` says that there is
 * none, where a page would show some.
 */
export interface View extends Omit<Query, 'place' | 'path' | 'shape' | 'cells'> {
  readonly place?: ViewPlace;
  readonly reading?: Reading;
  /** In px, of the columns that were made wider or narrower. */
  readonly widths?: Readonly<Record<string, number>>;
  /** Columns that stay in view when the others scroll sideways. */
  readonly pinned?: readonly string[];
  /** Those that do so at the end side. */
  readonly pinnedEnd?: readonly string[];
  readonly density?: Density;
  readonly layout?: Layout;
  readonly rowStyle?: readonly RowStyle[];
  readonly height?: Height;
  /** Rules from conditions to looks; an empty list says that there are none, where a page has some. */
  readonly paint?: readonly PaintRule[];
  readonly chart?: Chart;
  /** Above by default. */
  readonly chartSide?: ChartSide;
  /** Groups that are open. */
  readonly open?: readonly OpenGroup[];
}

/** The version of the form in which views are saved; another one whenever it is not read as before. */
export const savedViewVersion = 1;

/** What of a view is its look alone: put back, it shows the same rows. */
export const appearanceParts = [
  'columns',
  'widths',
  'pinned',
  'pinnedEnd',
  'density',
  'layout',
  'rowStyle',
  'height',
  'paint',
] as const satisfies readonly (keyof View)[];

/** Parts of a view as they shall be; undefined for those that shall be at their default. */
export type ViewChange = { readonly [Part in keyof View]?: View[Part] | undefined };

/** A view with some parts changed. */
export function changed(view: View, change: ViewChange): View {
  const parts = Object.entries({ ...view, ...change });
  // Only what is absent is at its default: a part that is undefined is no part of a view.
  return Object.fromEntries(parts.filter(([, value]) => value !== undefined));
}

/** The question that a view asks, without its place. */
export function queryOf(view: View): Query {
  const { columns, filter, search, sort, nulls, group, aggregate, limit, total } = view;
  return changed({}, { columns, filter, search, sort, nulls, group, aggregate, limit, total });
}
