import { problem, type Problem } from '../problem/index.ts';
import type { Span } from '../expression/index.ts';

/** A piece of an option's text. */
export type Token = {
  readonly kind:
    | 'word'
    | 'text'
    | 'number'
    | 'date'
    | 'timestamp'
    | 'time'
    | 'guid'
    | 'prefixed'
    | 'symbol'
    | 'end';
  /** Of a text what it says, of all others as they are written. */
  readonly value: string;
} & { readonly span: Span };

const quoted = String.raw`'(?:[^']|'')*'`;
const clock = String.raw`\d\d:\d\d(?::\d\d(?:\.\d{1,12})?)?`;
// A plus in a URL is decoded as a blank where nobody has percent-encoded it.
const zone = String.raw`(?:[Zz]|[-+ ]\d\d:\d\d)`;

/** In the order in which they are tried (OData ABNF 4.01, section 7). */
const patterns: readonly (readonly [Token['kind'], RegExp])[] = [
  ['text', new RegExp(quoted, 'y')],
  ['guid', /[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/iy],
  ['timestamp', new RegExp(String.raw`-?\d{4,}-\d\d-\d\d[Tt]${clock}${zone}`, 'y')],
  ['date', /-?\d{4,}-\d\d-\d\d/y],
  ['time', new RegExp(clock, 'y')],
  ['number', /\d+(?:\.\d+)?(?:e[+-]?\d+)?/iy],
  ['prefixed', new RegExp(String.raw`[\p{L}_][\p{L}\p{N}_.]*${quoted}`, 'uy')],
  ['word', /[$@]?[\p{L}\p{Nl}_][\p{L}\p{N}\p{M}\p{Pc}\p{Cf}.]*/uy],
  ['symbol', /[(),/:;=*-]/y],
];

/** Parts a text into its tokens, the last of which is its end. */
export function tokensIn(
  text: string,
): { readonly tokens: readonly Token[] } | { readonly problem: Problem } {
  const tokens: Token[] = [];
  let at = 0;
  for (;;) {
    at += /^[ \t]*/.exec(text.slice(at))?.[0].length ?? 0;
    if (at >= text.length) break;
    const token = tokenAt(text, at);
    if (token === undefined) {
      const place = { start: at, end: at + 1 };
      const isQuote = text[at] === "'";
      return {
        problem: isQuote
          ? problem('unclosed-quote', { quote: "'" }, place)
          : problem('unexpected-character', {}, place),
      };
    }
    tokens.push(token);
    at = token.span.end;
  }
  tokens.push({ kind: 'end', value: '', span: { start: text.length, end: text.length } });
  return { tokens };
}

function tokenAt(text: string, at: number): Token | undefined {
  for (const [kind, pattern] of patterns) {
    pattern.lastIndex = at;
    const found = pattern.exec(text)?.[0];
    if (found === undefined) continue;
    const value = kind === 'text' ? found.slice(1, -1).replaceAll("''", "'") : found;
    return { kind, value, span: { start: at, end: at + found.length } };
  }
  return undefined;
}
