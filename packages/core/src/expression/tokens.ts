import { problem, type Problem } from '../problem/index.ts';
import type { Span } from './expression.ts';

/** A piece of a filter. `value` is decoded: quotes removed, doubled quotes single. */
export interface Token extends Span {
  readonly kind: 'word' | 'name' | 'text' | 'number' | 'symbol' | 'end';
  readonly value: string;
  /** The keyword that a word is, in capitals. */
  readonly keyword?: string | undefined;
}

const number = /(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?/y;
// CQL2's identifierStart and identifierPart, which hold letters, digits, "_", ":" and ".".
const word = /[\p{L}\p{Nl}_:][\p{L}\p{Nl}\p{Mn}\p{Mc}\p{Nd}\p{Pc}:.]*/uy;
const symbol = /<>|<=|>=|[=<>(),+\-*/%^]/y;
const space = /\s+/y;
const patterns = { number, word, symbol } as const;

/** Words that cannot be names unless they are quoted, in capitals. */
const keywords: ReadonlySet<string> = new Set(
  'AND OR NOT LIKE BETWEEN IN IS NULL TRUE FALSE DIV'.split(' '),
);
const longestKeyword = 7;

const strays: Readonly<Record<string, string>> = {
  '!': 'Unequal is written <>.',
  '&': 'Join conditions by AND.',
  '|': 'Join conditions by OR.',
  '"': 'Close the double quote.',
  ';': 'A filter is one condition; nothing follows it.',
  '’': "Use the straight quote '.",
  '‘': "Use the straight quote '.",
  '“': "Put text in straight single quotes '…'.",
  '”': "Put text in straight single quotes '…'.",
};

/**
 * Cuts a filter into tokens; linear in its length. Stops at the first piece that is none, with
 * one problem.
 */
export function tokenize(source: string): { tokens: Token[]; problem?: Problem } {
  const tokens: Token[] = [];
  let at = 0;
  const match = (pattern: RegExp): string | undefined => {
    pattern.lastIndex = at;
    return pattern.exec(source)?.[0];
  };
  const push = (kind: Token['kind'], length: number, value: string): void => {
    const keyword = kind === 'word' ? keywordOf(value) : undefined;
    tokens.push({ kind, value, start: at, end: at + length, keyword });
    at += length;
  };
  while (at < source.length) {
    const character = source[at] ?? '';
    if (character === ' ') {
      at += 1;
      continue;
    }
    if (character.trim() === '') {
      at += match(space)?.length ?? 1;
      continue;
    }
    if (character === "'" || character === '"') {
      const read = character === "'" ? readText(source, at) : readName(source, at);
      if (read === undefined) {
        const place = { start: at, end: source.length };
        return { tokens, problem: problem('unclosed-quote', { quote: character }, place) };
      }
      push(character === "'" ? 'text' : 'name', read.length, read.value);
      continue;
    }
    // The first character says which pattern can match; the others are not tried.
    const kind = kindOf(character);
    const found = match(patterns[kind]);
    if (found !== undefined) {
      const rest =
        found.endsWith('.') && source[at + found.length] === '"'
          ? readName(source, at + found.length)
          : undefined;
      if (rest === undefined) push(kind, found.length, found);
      else push('name', found.length + rest.length, found + rest.value);
      continue;
    }
    const stray = String.fromCodePoint(source.codePointAt(at) ?? 0);
    const place = { start: at, end: at + stray.length };
    return { tokens, problem: problem('unexpected-character', { hint: strays[stray] }, place) };
  }
  tokens.push({ kind: 'end', value: '', start: at, end: at });
  return { tokens };
}

function keywordOf(word: string): string | undefined {
  if (word.length > longestKeyword) return undefined;
  const upper = word.toUpperCase();
  return keywords.has(upper) ? upper : undefined;
}

function kindOf(character: string): keyof typeof patterns {
  if ((character >= '0' && character <= '9') || character === '.') return 'number';
  return '<>=(),+-*/%^'.includes(character) ? 'symbol' : 'word';
}

/**
 * characterLiteral of CQL2: a quote inside is written '' or \'. Beyond the standard, two
 * backslashes right before a quote are one backslash, so that a text may end in one.
 */
function readText(source: string, start: number): { value: string; length: number } | undefined {
  let value = '';
  let at = start + 1;
  for (;;) {
    const quote = source.indexOf("'", at);
    if (quote === -1) return undefined;
    let run = quote;
    while (run > at && source[run - 1] === '\\') run -= 1;
    value += source.slice(at, run);
    const backslashes = quote - run;
    value += '\\'.repeat(Math.floor(backslashes / 2));
    at = quote + 1;
    if (backslashes % 2 === 1) value += "'";
    else if (source[at] === "'") {
      value += "'";
      at += 1;
    } else return { value, length: at - start };
  }
}

/** A name whose first part, at least, is in double quotes: "odd name", "x.y".name. */
function readName(source: string, start: number): { value: string; length: number } | undefined {
  const first = readQuoted(source, start);
  if (first === undefined) return undefined;
  let { value } = first;
  let at = start + first.length;
  while (source[at] === '.') {
    const next = source[at + 1] === '"' ? readQuoted(source, at + 1) : readPlain(source, at + 1);
    if (next === undefined) break;
    value += `.${next.value}`;
    at += 1 + next.length;
  }
  return { value, length: at - start };
}

function readPlain(source: string, start: number): { value: string; length: number } | undefined {
  word.lastIndex = start;
  const value = word.exec(source)?.[0];
  return value === undefined ? undefined : { value, length: value.length };
}

/** A double quote inside is written twice. */
function readQuoted(source: string, start: number): { value: string; length: number } | undefined {
  let at = start + 1;
  for (;;) {
    const quote = source.indexOf('"', at);
    if (quote === -1) return undefined;
    at = quote + 1;
    if (source[at] !== '"') {
      return { value: source.slice(start + 1, quote).replaceAll('""', '"'), length: at - start };
    }
    at += 1;
  }
}
