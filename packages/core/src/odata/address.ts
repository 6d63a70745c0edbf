import { problem } from '../problem/index.ts';
import { Refusal, notImplemented, TokenReader } from './reader.ts';

/** One part of a resource path: a name, and the key in parentheses behind it. */
export interface AddressPart {
  readonly name: string;
  /** By the names of its columns, or by '' where it is a single value. */
  readonly key?: ReadonlyMap<string, string>;
}

/** The parts of a resource path, decoded (URL Conventions 4.01, 4). @throws Refusal; URIError */
export function parseAddress(path: string): readonly AddressPart[] {
  // A slash at the end is the service root's.
  const parts = path.split('/').filter((part, at, all) => part !== '' || at < all.length - 1);
  return parts.filter((part) => part !== '').map((part) => partOf(decodeURIComponent(part)));
}

function partOf(text: string): AddressPart {
  const open = text.indexOf('(');
  if (open === -1 || text.startsWith('$')) return { name: text };
  const name = text.slice(0, open);
  const reader = new TokenReader(text.slice(open));
  reader.expect('(');
  const key = new Map<string, string>();
  if (reader.is(')')) throw notImplemented(`${name}()`);
  do {
    const isNamed = reader.is('=', 1);
    const column = isNamed ? reader.word('the name of a key column').value : '';
    if (isNamed) reader.expect('=');
    if (key.has(column)) throw new Refusal(problem('repeated-term', { name: column || 'the key' }));
    key.set(column, literalIn(reader));
  } while (reader.take(','));
  reader.expect(')');
  reader.end();
  return { name, key };
}

/** A literal of a key as answers have its value, as text. */
function literalIn(reader: TokenReader): string {
  const isNegative = reader.take('-');
  const { kind, value } = reader.peek();
  const isTruth = value === 'true' || value === 'false';
  if (kind === 'end' || kind === 'symbol' || kind === 'prefixed' || (kind === 'word' && !isTruth)) {
    throw reader.unexpected('a literal');
  }
  reader.next();
  if (isNegative && kind !== 'number') throw reader.unexpected('a number');
  return isNegative ? `-${value}` : kind === 'timestamp' ? value.replace(' ', '+') : value;
}
