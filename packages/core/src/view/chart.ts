import { call, number } from '../expression/index.ts';
import { termOf, type Query, type Term } from '../query/index.ts';

/** How a chart shows numbers: bars, a line, how often values occur, how values spread by group. */
export const chartKinds = ['bars', 'line', 'histogram', 'spread'] as const;

export type ChartKind = (typeof chartKinds)[number];

/** Where a chart stands: in a band above the rows, or next to them. */
export const chartSides = ['above', 'beside'] as const;

export type ChartSide = (typeof chartSides)[number];

/**
 * A chart of what a view shows. Bars and lines show `of` (an aggregate, the number of rows by
 * default) for each group of `by`. A histogram shows how often the values of `by` occur. A spread
 * shows the least, the median and the greatest value of the column `of`, and its quarters, by group.
 */
export interface Chart {
  readonly kind: ChartKind;
  readonly by: Term;
  readonly of?: Term;
}

/**
 * The question whose groups a chart shows. The values of a histogram are reported by the distribution
 * of its column.
 */
export function groupingOf({ kind, by, of }: Chart): Pick<Query, 'group' | 'aggregate'> {
  if (of === undefined) return { group: [by] };
  if (kind !== 'spread') return { group: [by], aggregate: [of] };
  const { expression } = of;
  const made = [
    call('min', expression),
    call('percentile', expression, number('25')),
    call('median', expression),
    call('percentile', expression, number('75')),
    call('max', expression),
  ];
  return { group: [by], aggregate: made.map(termOf) };
}
