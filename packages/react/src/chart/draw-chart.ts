import * as Plot from '@observablehq/plot';
import type { Chart } from '@ephoros/core/view';
import type { Mark } from './chart-data.ts';

/** What a chart is drawn with, next to its marks. */
export interface Drawing {
  readonly chart: Chart;
  readonly marks: readonly Mark[];
  /** What each mark is called, in their order; no two alike. */
  readonly names: readonly string[];
  readonly width: number;
  readonly height: number;
  readonly mirrored: boolean;
  /** Colours and the font, as the table has them. */
  readonly appearance: { readonly ink: string; readonly faint: string; readonly accent: string };
  readonly font: string;
  /** Writes a number of the scale. */
  readonly write: (value: number) => string;
  readonly labelOf: string;
  /** Where it is drawn; the page's own by default. */
  readonly document?: Document;
}

interface Point {
  readonly index: number;
  readonly name: string;
  readonly numbers: readonly (number | null)[];
}

/** The most labels of an axis that can be read next to each other, by their length. */
const letter = 7.2;

/** Draws a chart as SVG. Each of its marks has the number of what it stands for in `data-mark`. */
export function drawChart(drawing: Drawing): SVGSVGElement {
  const { chart, marks, names, width, height, mirrored, appearance, font, write, labelOf } =
    drawing;
  const points = marks.map(({ numbers }, index): Point => ({
    index,
    name: names[index] ?? '',
    numbers,
  }));
  const longest = Math.max(1, ...names.map((name) => name.length));
  const room = Math.max(1, width - 90) / Math.max(1, points.length);
  // Where names have no room next to each other only some stand there.
  const every = Math.ceil((Math.min(longest, 14) * letter + 8) / room);
  const shown = names.filter((_, index) => index % every === 0);
  const value = (place: number) => (point: Point) => point.numbers[place] ?? NaN;
  const common = { fill: appearance.accent, stroke: appearance.accent };
  const drawn = {
    bars: () => [
      Plot.barY(points, { x: 'name', y: value(0), fill: common.fill, insetLeft: 1, insetRight: 1 }),
    ],
    histogram: () => [
      Plot.barY(points, {
        x: 'name',
        y: value(0),
        fill: common.fill,
        insetLeft: 0.5,
        insetRight: 0.5,
      }),
    ],
    line: () => [
      Plot.line(points, { x: 'name', y: value(0), stroke: common.stroke, strokeWidth: 1.75 }),
      Plot.dot(points, {
        x: 'name',
        y: value(0),
        fill: common.fill,
        r: points.length > 80 ? 1.5 : 3,
      }),
    ],
    spread: () => [
      Plot.ruleX(points, { x: 'name', y1: value(0), y2: value(4), stroke: appearance.faint }),
      Plot.barY(points, {
        x: 'name',
        y1: value(1),
        y2: value(3),
        fill: common.fill,
        fillOpacity: 0.35,
        insetLeft: 2,
        insetRight: 2,
      }),
      Plot.tickY(points, { x: 'name', y: value(2), stroke: common.stroke, strokeWidth: 2 }),
    ],
  }[chart.kind]();
  const svg = Plot.plot({
    ...(drawing.document && { document: drawing.document }),
    width,
    height,
    marginTop: 22,
    marginBottom: 26,
    marginLeft: mirrored ? 36 : 66,
    marginRight: mirrored ? 66 : 36,
    style: {
      background: 'transparent',
      color: appearance.ink,
      fontFamily: font,
      fontSize: '12px',
      overflow: 'visible',
    },
    x: {
      type: chart.kind === 'line' ? 'point' : 'band',
      domain: [...names],
      reverse: mirrored,
      ticks: shown,
      tickFormat: (name: string) => cut(name, Math.max(14, Math.floor(room / letter))),
      label: null,
      tickSize: 0,
      padding: chart.kind === 'histogram' ? 0 : 0.15,
    },
    y: {
      label: labelOf,
      tickFormat: write,
      ticks: Math.max(2, Math.floor(height / 50)),
      grid: true,
      nice: true,
      axis: mirrored ? 'right' : 'left',
    },
    marks: [Plot.ruleY([0], { stroke: appearance.faint }), ...drawn],
  }) as SVGSVGElement;
  // A page may allow no styles but those of its own files; the sheet of charts has the same.
  for (const style of svg.querySelectorAll('style')) style.remove();
  tag(svg, points);
  return svg;
}

function cut(name: string, most: number): string {
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}

/** Says of each drawn mark which it is. */
function tag(svg: SVGSVGElement, points: readonly Point[]): void {
  for (const group of svg.querySelectorAll('g[aria-label=bar], g[aria-label=dot]')) {
    const there = points.filter(({ numbers }) => numbers.some((one) => one !== null));
    for (const [place, element] of [...group.children].entries()) {
      const point = there[place];
      if (point !== undefined) element.setAttribute('data-mark', String(point.index));
    }
  }
  // The drawing as a whole has a name; its parts are reported by the table of the same numbers.
  for (const part of svg.querySelectorAll('[aria-label]')) part.removeAttribute('aria-label');
}
