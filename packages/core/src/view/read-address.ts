import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import {
  parseNames,
  parseParameters,
  parseTerms,
  splitList,
  type QueryParameter,
} from '../query/index.ts';
import { ofQuery, type ofView, type ViewTexts } from './address.ts';
import { chartKinds, chartSides, type Chart } from './chart.ts';
import type { PaintRule } from './paint.ts';
import { readPaint } from './read-paint.ts';
import {
  changed,
  densities,
  heights,
  layouts,
  readings,
  rowStyles,
  type OpenGroup,
  type RowStyle,
  type View,
} from './view.ts';

/** A view as far as it could be read, and every error with its parameter and place. */
export interface ReadView {
  readonly view: View;
  readonly problems: readonly Problem[];
}

/** Reads a view from its parameters (decoded); names are looked up later. */
export function readView(texts: ViewTexts): ReadView {
  const wanted: Partial<Record<QueryParameter, string>> = {};
  for (const name of ofQuery) if (texts[name] !== undefined) wanted[name] = texts[name];
  const { query, problems: ofTexts } = parseParameters(wanted);
  const problems: Problem[] = [...ofTexts];
  const read = <Part>(
    name: (typeof ofView)[number],
    reader: (text: string) => Found<Part>,
  ): Part | undefined => {
    const text = texts[name];
    if (text === undefined) return undefined;
    const found = reader(text);
    if ('problems' in found) problems.push(...inParameter(name, found.problems));
    return found.part;
  };
  const view = changed(query as View, {
    // That there are none is stated by an empty text.
    ...(texts.group?.trim() === '' ? { group: [] } : {}),
    ...(texts.aggregate?.trim() === '' ? { aggregate: [] } : {}),
    reading: read('reading', oneOf(readings)),
    pinned: read('pinned', readPinned),
    pinnedEnd: read('pinned-end', readPinned),
    widths: read('widths', readWidths),
    density: read('density', oneOf(densities)),
    layout: read('layout', oneOf(layouts)),
    rowStyle: read('row-style', readRowStyle),
    height: read('height', oneOf(heights)),
    paint: read('paint', readPainted),
    chart: read('chart', readChart),
    chartSide: read('chart-side', oneOf(chartSides)),
    open: read('open', readOpen),
  });
  return { view, problems };
}

/** What was read; of a list what could be. */
type Found<Part> =
  { readonly part: Part } | { readonly part?: Part; readonly problems: readonly Problem[] };

function oneOf<Word extends string>(words: readonly Word[]): (text: string) => Found<Word> {
  return (text) => {
    const part = words.find((one) => one === text);
    if (part !== undefined) return { part };
    const facts = { allowed: words.join(', '), near: nearest(text, words) };
    return { problems: [problem('not-one-of', facts, { start: 0, end: text.length })] };
  };
}

function readPinned(text: string): Found<readonly string[]> {
  if (text.trim() === '') return { part: [] };
  const { names, problems } = parseNames(text);
  return problems.length > 0 ? { problems } : { part: names.map(({ name }) => name) };
}

const narrowest = 1;
const widest = 10_000;

function readWidths(text: string): Found<Readonly<Record<string, number>>> {
  if (text.trim() === '') return { part: {} };
  const { items, problems } = splitList(text);
  const widths = items.map(({ text: item, start }): [string, number] => {
    const colon = Math.max(0, item.lastIndexOf(':'));
    const digits = item.slice(colon + 1);
    const width = /^\d+$/.test(digits) ? Number(digits) : 0;
    const [name] = parseNames(item.slice(0, colon)).names;
    if (name === undefined || width < narrowest || width > widest) {
      const place = { start: start + colon, end: start + item.length };
      problems.push(problem('not-a-whole-number', { least: narrowest, most: widest }, place));
    }
    return [name?.name ?? '', width];
  });
  return problems.length > 0 ? { problems } : { part: Object.fromEntries(widths) };
}

/** Which groups are open, such as `[["Wend Cut"],["Wend Cut","disputed"]]`. */
function readOpen(text: string): Found<readonly OpenGroup[]> {
  const expected = 'a JSON list of lists of values';
  const whole = { start: 0, end: text.length };
  const refused = { problems: [problem('malformed-view', { expected }, whole)] };
  try {
    const read: unknown = JSON.parse(text);
    return areGroups(read) ? { part: read } : refused;
  } catch {
    return refused;
  }
}

function areGroups(read: unknown): read is readonly OpenGroup[] {
  return Array.isArray(read) && read.every((path) => Array.isArray(path));
}

function readRowStyle(text: string): Found<readonly RowStyle[]> {
  if (text.trim() === '') return { part: [] };
  const { items, problems: ofList } = splitList(text);
  const read = items.map((item) => ({ ...oneOf(rowStyles)(item.text.trim()), start: item.start }));
  const styles = new Set(read.map(({ part }) => part));
  const unread = read.flatMap((one) =>
    'problems' in one
      ? one.problems.map((violation) => ({
          ...violation,
          position: (violation.position ?? 0) + one.start,
        }))
      : [],
  );
  const problems = [...ofList, ...unread];
  const part = rowStyles.filter((style) => styles.has(style));
  return problems.length === 0 ? { part } : { part, problems };
}

function readPainted(text: string): Found<readonly PaintRule[]> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    // What is no JSON is no list of rules either.
  }
  const { rules, problems } = readPaint(json);
  if (problems.length === 0) return { part: rules };
  return rules.length === 0 ? { problems } : { part: rules, problems };
}

function readChart(text: string): Found<Chart> {
  const comma = text.includes(',') ? text.indexOf(',') : text.length;
  const kind = oneOf(chartKinds)(text.slice(0, comma).trim());
  if ('problems' in kind) return { problems: kind.problems };
  // Read behind blanks, so that places inside of it are those in the parameter.
  const read = parseTerms(' '.repeat(comma + 1) + text.slice(comma + 1));
  if (read.problems.length > 0) return { problems: read.problems };
  const [by, of, ...others] = read.terms;
  if (by === undefined || others.length > 0) {
    const expected = 'a kind, what it is by, and what of: bars,month(passed_at),sum(toll)';
    return { problems: [problem('malformed-view', { expected }, { start: 0, end: text.length })] };
  }
  return { part: { kind: kind.part, by, ...(of && { of }) } };
}
