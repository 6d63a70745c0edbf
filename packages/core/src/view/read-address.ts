import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import { parseNames, parseParameters, splitList, type QueryParameter } from '../query/index.ts';
import { ofQuery, type ofView, type ViewTexts } from './address.ts';
import { changed, type OpenGroup, type View } from './view.ts';

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
