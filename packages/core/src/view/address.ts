import { printName } from '../expression/index.ts';
import {
  printParameters,
  printTerms,
  queryParameters,
  type QueryParameter,
} from '../query/index.ts';
import type { Chart } from './chart.ts';
import { printPaint } from './paint.ts';
import { queryOf, type View } from './view.ts';

/** What belongs to single requests, not to what is shown. */
type OfRequests = 'path' | 'after' | 'before' | 'shape' | 'cells';

const ofRequests: ReadonlySet<string> = new Set<OfRequests>([
  'path',
  'after',
  'before',
  'shape',
  'cells',
]);

export const ofQuery = queryParameters.filter(
  (name): name is Exclude<QueryParameter, OfRequests> => !ofRequests.has(name),
);

export const ofView = [
  'reading',
  'pinned',
  'pinned-end',
  'widths',
  'density',
  'layout',
  'row-style',
  'height',
  'paint',
  'chart',
  'chart-side',
  'open',
] as const;

/** The names of the parameters that spell a view, in the order in which they are written. */
export const viewParameters = [...ofQuery, ...ofView] as const;

export type ViewParameter = (typeof viewParameters)[number];

/** The parameters of a view, decoded. */
export type ViewTexts = Readonly<Partial<Record<ViewParameter, string>>>;

/** The parameters of a view, what is at its default left out. Reading them gives the same view. */
export function printView(view: View): [ViewParameter, string][] {
  const { place, reading, pinned, pinnedEnd, widths, density, layout, open } = view;
  const { rowStyle, height, paint, chart, chartSide } = view;
  const query = printParameters({ ...queryOf(view), ...(place && { place }) });
  const shown: [ViewParameter, string | undefined][] = [
    ['reading', reading],
    ['pinned', pinned?.map(printName).join(',')],
    ['pinned-end', pinnedEnd?.map(printName).join(',')],
    ['widths', widths && printWidths(widths)],
    ['density', density],
    ['layout', layout],
    ['row-style', rowStyle?.join(',')],
    ['height', height],
    ['paint', paint && JSON.stringify(printPaint(paint))],
    ['chart', chart && printChart(chart)],
    ['chart-side', chartSide],
    ['open', open && JSON.stringify(open)],
  ];
  return [
    ...(query as [ViewParameter, string][]),
    ...shown.filter((one): one is [ViewParameter, string] => one[1] !== undefined),
  ];
}

/** `toll:120,"odd, name":80` */
function printWidths(widths: Readonly<Record<string, number>>): string {
  return Object.entries(widths)
    .map(([name, width]) => `${printName(name)}:${width}`)
    .join(',');
}

/** `bars,month(passed_at),sum(toll)`: how, by what, of what. */
export function printChart({ kind, by, of }: Chart): string {
  return `${kind},${printTerms(of === undefined ? [by] : [by, of])}`;
}
