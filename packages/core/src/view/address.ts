import { printName } from '../expression/index.ts';
import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import {
  parseNames,
  parseParameters,
  printParameters,
  queryParameters,
  splitList,
  type QueryParameter,
} from '../query/index.ts';
import { changed, queryOf, type OpenGroup, type View } from './view.ts';

/** What belongs to single requests, not to what is shown. */
type OfRequests = 'path' | 'after' | 'before' | 'shape' | 'cells';

const ofRequests: ReadonlySet<string> = new Set<OfRequests>([
  'path',
  'after',
  'before',
  'shape',
  'cells',
]);

const ofQuery = queryParameters.filter(
  (name): name is Exclude<QueryParameter, OfRequests> => !ofRequests.has(name),
);

const ofView = ['reading', 'pinned', 'widths', 'density', 'layout', 'open'] as const;

/** The names of the parameters that spell a view, in the order in which they are written. */
export const viewParameters = [...ofQuery, ...ofView] as const;

export type ViewParameter = (typeof viewParameters)[number];

/** The parameters of a view, decoded. */
export type ViewTexts = Readonly<Partial<Record<ViewParameter, string>>>;

/** A view as far as it could be read, and every mistake with its parameter and place. */
export interface ReadView {
  readonly view: View;
  readonly problems: readonly Problem[];
}

/** Reads a view from its parameters (decoded); names are looked up later. */
export function readView(texts: ViewTexts): ReadView {
  const asked: Partial<Record<QueryParameter, string>> = {};
  for (const name of ofQuery) if (texts[name] !== undefined) asked[name] = texts[name];
  const { query, problems: ofTexts } = parseParameters(asked);
  const problems: Problem[] = [...ofTexts];
  const read = <Part>(
    name: (typeof ofView)[number],
    reader: (text: string) => Found<Part>,
  ): Part | undefined => {
    const text = texts[name];
    if (text === undefined) return undefined;
    const found = reader(text);
    if ('part' in found) return found.part;
    problems.push(...inParameter(name, found.problems));
    return undefined;
  };
  const view = changed(query as View, {
    // That there are none is said by an empty text.
    ...(texts.group?.trim() === '' ? { group: [] } : {}),
    ...(texts.aggregate?.trim() === '' ? { aggregate: [] } : {}),
    reading: read('reading', oneOf(['pages', 'scroll'])),
    pinned: read('pinned', readPinned),
    widths: read('widths', readWidths),
    density: read('density', oneOf(['compact', 'normal', 'roomy'])),
    layout: read('layout', oneOf(['down', 'across'])),
    open: read('open', readOpen),
  });
  return { view, problems };
}

type Found<Part> = { readonly part: Part } | { readonly problems: readonly Problem[] };

/** The parameters of a view, what is at its default left out. Reading them gives the same view. */
export function printView(view: View): [ViewParameter, string][] {
  const { place, reading, pinned, widths, density, layout, open } = view;
  const query = printParameters({ ...queryOf(view), ...(place && { place }) });
  const shown: [ViewParameter, string | undefined][] = [
    ['reading', reading],
    ['pinned', pinned?.map(printName).join(',')],
    ['widths', widths && printWidths(widths)],
    ['density', density],
    ['layout', layout],
    ['open', open && JSON.stringify(open)],
  ];
  return [
    ...(query as [ViewParameter, string][]),
    ...shown.filter((one): one is [ViewParameter, string] => one[1] !== undefined),
  ];
}

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

/** `toll:120,"odd, name":80` */
function printWidths(widths: Readonly<Record<string, number>>): string {
  return Object.entries(widths)
    .map(([name, width]) => `${printName(name)}:${width}`)
    .join(',');
}

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
