import type { Span } from '../expression/index.ts';
import type { ArithmeticName, ComparisonOperator, LiteralKind, Node, Segment } from './node.ts';
import { notImplemented, TokenReader } from './reader.ts';
import type { Token } from './tokens.ts';

/** Reads an expression (OData URL Conventions 4.01, 5.1.1), up to its end. @throws Refusal */
export function parseNode(text: string): Node {
  const reader = new TokenReader(text);
  const node = readNode(reader);
  reader.end();
  return node;
}

const comparisons: readonly ComparisonOperator[] = ['eq', 'ne', 'gt', 'ge', 'lt', 'le'];

// or = and { "or" and }
export function readNode(reader: TokenReader): Node {
  return joined(reader, 'or', conjunction);
}

// and = comparison { "and" comparison }
function conjunction(reader: TokenReader): Node {
  return joined(reader, 'and', comparison);
}

/** However many there are, they are no deeper than two. */
function joined(
  reader: TokenReader,
  kind: 'and' | 'or',
  operand: (reader: TokenReader) => Node,
): Node {
  const first = operand(reader);
  const operands = [first];
  while (reader.take(kind)) operands.push(operand(reader));
  const last = operands.at(-1) ?? first;
  return operands.length === 1 ? first : { kind, operands, span: around(first, last) };
}

// comparison = sum { ( "eq" | "ne" | … ) sum | "in" "(" node { "," node } ")" }
function comparison(reader: TokenReader): Node {
  let left = sum(reader);
  for (let levels = 1; ; levels += 1) {
    reader.level(levels);
    const operator = comparisons.find((one) => reader.is(one));
    if (operator !== undefined) {
      reader.next();
      const right = sum(reader);
      left = { kind: 'comparison', operator, left, right, span: around(left, right) };
    } else if (reader.is('in')) left = membership(reader, left);
    else if (reader.is('has')) throw notImplemented('has', reader.peek().span);
    else return left;
  }
}

function membership(reader: TokenReader, operand: Node): Node {
  reader.expect('in');
  if (!reader.is('(')) throw notImplemented('a collection behind in', reader.peek().span);
  reader.next();
  const members = reader.members(() => unary(reader));
  reader.expect(')');
  const { end } = reader.peek(-1).span;
  return { kind: 'in', operand, members, span: { start: operand.span.start, end } };
}

// sum = product { ( "add" | "sub" ) product }
function sum(reader: TokenReader): Node {
  return chain(reader, ['add', 'sub'], product);
}

// product = unary { ( "mul" | "div" | "divby" | "mod" ) unary }
function product(reader: TokenReader): Node {
  return chain(reader, ['mul', 'div', 'divby', 'mod'], unary);
}

// unary = [ "not" | "-" ] primary
function unary(reader: TokenReader): Node {
  const { span } = reader.peek();
  const kind =
    reader.is('not') && !isName(reader) ? 'not' : reader.is('-') ? 'negative' : undefined;
  if (kind === undefined) return primary(reader);
  reader.next();
  const operand = reader.inside(() => unary(reader));
  if (kind === 'negative' && operand.kind === 'literal' && operand.of === 'number') {
    return { ...operand, value: `-${operand.value}`, span: around({ span }, operand) };
  }
  return { kind, operand, span: around({ span }, operand) };
}

/** Whether a word that may be an operator stands where a name does. */
function isName(reader: TokenReader): boolean {
  const behind = reader.peek(1);
  return (
    behind.kind === 'end' ||
    (behind.kind === 'symbol' && behind.value !== '(' && behind.value !== '-') ||
    (behind.kind === 'word' && comparisons.some((one) => reader.is(one, 1)))
  );
}

// primary = "(" node ")" | literal | call | path
function primary(reader: TokenReader): Node {
  reader.part();
  const token = reader.peek();
  if (reader.take('(')) {
    const node = reader.inside(() => readNode(reader));
    reader.expect(')');
    return node;
  }
  const literal = literalOf(token);
  if (literal !== undefined) {
    reader.next();
    return { kind: 'literal', ...literal, span: token.span };
  }
  if (token.kind !== 'word') throw reader.unexpected('a value');
  if (reader.is('(', 1)) return call(reader);
  return path(reader);
}

function call(reader: TokenReader): Node {
  const { value, span } = reader.next();
  const args = list(reader);
  return { kind: 'call', name: value.toLowerCase(), args, span: since(reader, span) };
}

// list = "(" [ node { "," node } ] ")"
function list(reader: TokenReader): readonly Node[] {
  reader.expect('(');
  const nodes: Node[] = [];
  if (reader.take(')')) return nodes;
  do nodes.push(reader.inside(() => readNode(reader)));
  while (reader.take(','));
  reader.expect(')');
  return nodes;
}

// path = name { "/" name } [ "/" ( "$count" | ( "any" | "all" ) "(" [ name ":" node ] ")" ) ]
function path(reader: TokenReader): Node {
  const { span } = reader.peek();
  const segments: Segment[] = [];
  do {
    const { value, span: own } = reader.word('a name');
    if (value === '$count') {
      return { kind: 'count', segments, span: since(reader, span) };
    }
    if (reader.is('(') && segments.length > 0) return lambda(reader, segments, value, own);
    if (value.startsWith('@')) throw notImplemented('an alias of a parameter', own);
    if (value === '$root') throw notImplemented('$root', own);
    if (value !== '$it') segments.push({ name: value, span: own });
  } while (reader.take('/'));
  return { kind: 'path', segments, span: since(reader, span) };
}

function lambda(reader: TokenReader, segments: readonly Segment[], name: string, span: Span): Node {
  const which = name.toLowerCase();
  if (which !== 'any' && which !== 'all') throw notImplemented(`${name}()`, span);
  reader.expect('(');
  const start = segments[0]?.span ?? span;
  if (which === 'any' && reader.take(')')) {
    return { kind: 'lambda', which, segments, variable: '', span: since(reader, start) };
  }
  const variable = reader.word('the name of a variable').value;
  reader.expect(':');
  const condition = reader.inside(() => readNode(reader));
  reader.expect(')');
  return { kind: 'lambda', which, segments, variable, condition, span: since(reader, start) };
}

function literalOf({ kind, value, span }: Token): { of: LiteralKind; value: string } | undefined {
  switch (kind) {
    case 'text':
    case 'number':
    case 'date':
      return { of: kind, value };
    case 'timestamp':
      return { of: 'timestamp', value: completed(value) };
    case 'time':
    case 'guid':
      return { of: 'notation', value };
    case 'prefixed': {
      const [, type = '', text = ''] = /^([^']*)'(.*)'$/s.exec(value) ?? [];
      if (type.toLowerCase() !== 'duration') throw notImplemented(`a literal of ${type}`, span);
      return { of: 'notation', value: text };
    }
    case 'word':
      if (value === 'null') return { of: 'null', value };
      if (value === 'true' || value === 'false') return { of: 'boolean', value };
      if (value === 'INF' || value === 'NaN') throw notImplemented(value, span);
      return undefined;
    case 'symbol':
    case 'end':
      return undefined;
    default:
      throw new Error(`unknown token ${JSON.stringify(kind satisfies never)}`);
  }
}

/** A moment with its seconds and a zone as the filter language wants them. */
function completed(text: string): string {
  const [, day = '', clock = '', seconds = ':00', zone = ''] =
    /^(-?\d+-\d\d-\d\d)T(\d\d:\d\d)(:\d\d(?:\.\d+)?)?(.*)$/i.exec(text) ?? [];
  return `${day}T${clock}${seconds}${zone.replace(' ', '+').toUpperCase()}`;
}

function chain(
  reader: TokenReader,
  operators: readonly ArithmeticName[],
  operand: (reader: TokenReader) => Node,
): Node {
  let left = operand(reader);
  for (let levels = 1; ; levels += 1) {
    reader.level(levels);
    const operator = operators.find((one) => reader.is(one));
    if (operator === undefined) return left;
    reader.next();
    const right = operand(reader);
    left = { kind: 'arithmetic', operator, left, right, span: around(left, right) };
  }
}

function around(first: { readonly span: Span }, last: { readonly span: Span }): Span {
  return { start: first.span.start, end: last.span.end };
}

function since(reader: TokenReader, { start }: Span): Span {
  return { start, end: reader.peek(-1).span.end };
}
