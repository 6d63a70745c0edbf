import { problem } from '../problem/index.ts';
import { notImplemented, Refusal } from './reader.ts';

const term = /"(?:[^"\\]|\\.)*"|[^\s"()]+|[()]/g;

/** `$search`: words and phrases that must all occur (URL Conventions 4.01, 5.1.8). @throws Refusal */
export function parseSearchTerms(text: string): readonly string[] {
  const terms: string[] = [];
  for (const { 0: found, index } of text.matchAll(term)) {
    const span = { start: index, end: index + found.length };
    if (found === 'AND') continue;
    if (found === 'OR' || found === 'NOT') throw notImplemented(`${found} in $search`, span);
    if (found === '(' || found === ')') throw notImplemented('parentheses in $search', span);
    terms.push(found.startsWith('"') ? found.slice(1, -1).replaceAll(/\\(.)/gs, '$1') : found);
  }
  const odd = text.replaceAll(term, '').indexOf('"');
  if (odd !== -1) throw new Refusal(problem('unclosed-quote', { quote: '"' }, endOf(text)));
  return terms.filter((one) => one !== '');
}

function endOf(text: string): { start: number; end: number } {
  return { start: text.lastIndexOf('"'), end: text.length };
}
