import type { JsonNode } from './json-text.ts';

/** A value as JSON has it, with its place. Numbers keep their spelling. */
export type PathValue = Extract<JsonNode, { kind: 'string' | 'number' | 'boolean' | 'null' }>;

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
