import { problem, type Problem } from '../problem/index.ts';
import { JsonRefusal, readJson, type JsonNode } from './json-text.ts';
import type { PathValue } from './path.ts';

/**
 * Reads a JSON list of single values: the values of the groups that lie above a place in an
 * outline. Never throws; one problem, at its place, for what is no such list.
 */
export function parsePath(
  source: string,
): { readonly path: readonly PathValue[] } | { readonly problems: readonly Problem[] } {
  try {
    const node = readJson(source, 2);
    if (node.kind !== 'array') throw new JsonRefusal(noList(node));
    const values = node.items.map((item) => {
      if (item.kind === 'array' || item.kind === 'object') throw new JsonRefusal(noValue(item));
      return item;
    });
    return { path: values };
  } catch (thrown) {
    if (thrown instanceof JsonRefusal) return { problems: [thrown.problem] };
    throw thrown;
  }
}

function noList({ span }: JsonNode): Problem {
  const expected = 'a list in brackets, such as ["Wend Cut",3]';
  return problem('unexpected-token', { found: 'something else', expected }, span);
}

function noValue({ span }: JsonNode): Problem {
  return problem('unexpected-token', { found: 'a list or an object', expected: 'a value' }, span);
}
