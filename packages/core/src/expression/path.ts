import { problem, type Problem } from '../problem/index.ts';
import { JsonRefusal, readJson, type JsonNode } from './json-text.ts';

/** A value as JSON has it, with its place. Numbers keep their spelling. */
export type PathValue = Extract<JsonNode, { kind: 'string' | 'number' | 'boolean' | 'null' }>;

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

/** The path of groups whose values stand in answers; lists and objects are no such values. */
export function pathOf(values: readonly unknown[]): readonly PathValue[] {
  const span = { start: 0, end: 0 };
  return values.map((value): PathValue => {
    switch (typeof value) {
      case 'string':
        return { kind: 'string', value, span };
      case 'number':
        return { kind: 'number', value: String(value), span };
      case 'boolean':
        return { kind: 'boolean', value, span };
      default:
        if (value === null) return { kind: 'null', span };
        throw new Error('a path has single values');
    }
  });
}

/** The list as JSON text. */
export function printPath(path: readonly PathValue[]): string {
  return `[${path.map(printValue).join(',')}]`;
}

function printValue(value: PathValue): string {
  switch (value.kind) {
    case 'string':
      return JSON.stringify(value.value);
    case 'number':
      return value.value;
    case 'boolean':
      return String(value.value);
    case 'null':
      return 'null';
    default:
      throw new Error(`no spelling for ${JSON.stringify(value satisfies never)}`);
  }
}

function noList({ span }: JsonNode): Problem {
  const expected = 'a list in brackets, such as ["Wend Cut",3]';
  return problem('unexpected-token', { found: 'something else', expected }, span);
}

function noValue({ span }: JsonNode): Problem {
  return problem('unexpected-token', { found: 'a list or an object', expected: 'a value' }, span);
}
