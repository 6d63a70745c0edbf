import { isProperty, text, type Expression } from '../expression/index.ts';

/** Where in a text of a column another one stands, letter case ignored. */
export interface TextPattern {
  readonly operator: 'contains' | 'begins' | 'ends';
  /** Taken literally: without wildcards. */
  readonly text: string;
}

const nowhere = { start: 0, end: 0 };

/** `CASEI(name) LIKE CASEI('%heron%')` contains "heron"; undefined for any other pattern. */
export function readPattern(
  operand: Expression,
  pattern: Expression,
  name: string,
): TextPattern | undefined {
  if (operand.kind !== 'call' || pattern.kind !== 'call') return undefined;
  const [column] = operand.args;
  const [literal] = pattern.args;
  if (operand.name !== 'casei' || pattern.name !== 'casei') return undefined;
  if (column === undefined || !isProperty(column, name)) return undefined;
  if (literal?.kind !== 'text') return undefined;
  const [whole, before, inner = '', after] =
    /^(%?)((?:[^%_\\]|\\[%_\\])*)(%?)$/s.exec(literal.value) ?? [];
  if (whole === undefined || (before === '' && after === '')) return undefined;
  const operator = before === '' ? 'begins' : after === '' ? 'ends' : 'contains';
  // What any text begins and ends with says nothing of it.
  if (inner === '' && operator !== 'contains') return undefined;
  return { operator, text: inner.replace(/\\([%_\\])/g, '$1') };
}

export function writePattern(
  self: Expression,
  { operator, text: sought }: TextPattern,
): Expression {
  const inner = sought.replace(/[%_\\]/g, '\\$&');
  const patterns = { contains: `%${inner}%`, begins: `${inner}%`, ends: `%${inner}` };
  return {
    kind: 'like',
    operand: casei(self),
    pattern: casei(text(patterns[operator])),
    span: nowhere,
  };
}

function casei(operand: Expression): Expression {
  return { kind: 'call', name: 'casei', args: [operand], span: nowhere };
}
