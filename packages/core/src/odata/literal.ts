import { number, text, type Expression } from '../expression/index.ts';
import { problem } from '../problem/index.ts';
import type { Node } from './node.ts';
import { Refusal } from './reader.ts';

/** A literal as the query language has it. @throws Refusal for null, which is compared with nothing there */
export function literal({
  of,
  value,
  span,
}: Extract<Node, { readonly kind: 'literal' }>): Expression {
  switch (of) {
    case 'text':
    case 'notation':
      return { ...text(value), span };
    case 'number':
      return { ...number(value), span };
    case 'boolean':
      return { kind: 'boolean', value: value === 'true', span };
    case 'date':
    case 'timestamp':
      return { kind: of, value, span };
    case 'null':
      throw new Refusal(problem('null-literal', {}, span));
    default:
      throw new Error(`unknown literal ${JSON.stringify(of satisfies never)}`);
  }
}

export function isNull(node: Node): boolean {
  return node.kind === 'literal' && node.of === 'null';
}
