import { problem, type Problem } from '../problem/index.ts';
import type { Name } from './query.ts';

/** An item of a list, without the blanks around it, and where it stands. */
export interface Item {
  readonly text: string;
  readonly start: number;
}

// A name in double quotes where a part of it begins, a text in single ones, brackets, a comma.
const marks = /(?<=^|[,.(-]|\s)"(?:[^"]|"")*"|'(?:[^']|'')*'|[(),]/g;
/** The same outside of functions, where a single quote is a character of a name. */
const plainMarks = /(?<=^|[,.-]|\s)"(?:[^"]|"")*"|,/g;

/**
 * The items between the commas that stand outside of quotes and parentheses. An empty item is a
 * problem.
 */
export function splitList(text: string): { items: Item[]; problems: Problem[] } {
  const items: Item[] = [];
  const problems: Problem[] = [];
  const add = (start: number, end: number): void => {
    const part = text.slice(start, end);
    const item = part.trim();
    if (item === '') problems.push(problem('empty-list-item', {}, { start, end }));
    else items.push({ text: item, start: start + part.length - part.trimStart().length });
  };
  let depth = 0;
  let start = 0;
  for (const { 0: mark, index } of text.matchAll(text.includes('(') ? marks : plainMarks)) {
    if (mark === '(') depth += 1;
    else if (mark === ')') depth -= 1;
    else if (mark === ',' && depth <= 0) {
      add(start, index);
      start = index + 1;
    }
  }
  add(start, text.length);
  return { items, problems };
}

/**
 * The names of a comma-separated list with their places. One rule holds wherever names stand: in
 * double quotes a name, or a part of one between dots, is exactly what stands there (a double quote
 * written twice); without them it is what stands between the commas.
 */
export function parseNames(text: string): { names: Name[]; problems: Problem[] } {
  const { items, problems } = splitList(text);
  return { names: items.map(nameOf), problems };
}

export function nameOf({ text, start }: Item): Name {
  return { name: unquoted(text), span: { start, end: start + text.length } };
}

const quotedPart = /(?<=^|\.)"((?:[^"]|"")*)"(?=\.|$)/g;

function unquoted(text: string): string {
  if (!text.includes('"')) return text;
  return text.replace(quotedPart, (_, inner: string) => inner.replaceAll('""', '"'));
}
