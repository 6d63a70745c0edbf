import { problem, type Problem } from '../problem/index.ts';
import type { ArithmeticOperator, Comparator, Expression, Span } from './expression.ts';
import { JsonRefusal, readJson, type JsonNode } from './json-text.ts';
import { defaultLimits, type ExpressionLimits } from './limits.ts';
import { boundOf } from './places.ts';

const comparators: readonly Comparator[] = ['=', '<>', '<', '<=', '>', '>='];
const arithmetic: readonly ArithmeticOperator[] = ['+', '-', '*', '/', '%', 'div', '^'];

/**
 * Reads a filter in CQL2 JSON (OGC 21-065, chapter 7.3 and its JSON schema). Like
 * `parseExpression`: never throws, gives one problem at its place in the text.
 */
export function parseExpressionJson(
  source: string,
  limits: ExpressionLimits = defaultLimits,
): { readonly expression: Expression } | { readonly problems: readonly Problem[] } {
  try {
    // A level of the tree takes up to three levels of JSON: object, args, list.
    const node = readJson(source, limits.depth * 3);
    const parts = partsOf(node);
    if (parts > limits.parts) {
      return { problems: [problem('too-many-parts', { most: limits.parts }, node.span)] };
    }
    return { expression: readNode(node, limits) };
  } catch (thrown) {
    if (thrown instanceof JsonRefusal) return { problems: [thrown.problem] };
    throw thrown;
  }
}

/** Columns, values, functions and conditions, but for the literals of lists. */
function partsOf(node: JsonNode): number {
  if (node.kind === 'object') {
    const args = node.members.get('args');
    if (args?.kind !== 'array') return 1;
    return args.items.reduce((sum, one) => sum + partsOf(one), 1);
  }
  if (node.kind !== 'array') return 1;
  const inside = node.items.filter(({ kind }) => kind === 'object' || kind === 'array');
  return inside.reduce((sum, one) => sum + partsOf(one), 1);
}

function readNode(node: JsonNode, limits: ExpressionLimits): Expression {
  const { span } = node;
  switch (node.kind) {
    case 'string':
      return { kind: 'text', value: node.value, span };
    case 'number':
      return { kind: 'number', value: node.value, span };
    case 'boolean':
      return { kind: 'boolean', value: node.value, span };
    case 'null':
      throw new JsonRefusal(problem('null-literal', {}, span));
    case 'array':
      return { kind: 'array', members: readItems(node.items, limits, span), span };
    case 'object':
      return readObject(node.members, span, limits);
    default:
      throw new Error(`unknown JSON ${JSON.stringify(node satisfies never)}`);
  }
}

function readItems(items: readonly JsonNode[], limits: ExpressionLimits, span: Span): Expression[] {
  if (items.length > limits.members) {
    throw new JsonRefusal(problem('too-many-members', { most: limits.members }, span));
  }
  return items.map((item) => readNode(item, limits));
}

function readObject(
  members: ReadonlyMap<string, JsonNode>,
  span: Span,
  limits: ExpressionLimits,
): Expression {
  for (const name of ['property', 'date', 'timestamp'] as const) {
    const member = members.get(name);
    if (member === undefined) continue;
    if (member.kind !== 'string') throw unexpected(member, 'a string');
    return name === 'property'
      ? { kind: 'property', name: member.value, span }
      : { kind: name, value: member.value, span };
  }
  const interval = members.get('interval');
  if (interval !== undefined) {
    const [start, end] = interval.kind === 'array' ? interval.items : [];
    if (interval.kind !== 'array' || !start || !end || interval.items.length !== 2) {
      throw unexpected(interval, 'a list of two ends');
    }
    const bound = (node: JsonNode): Expression => boundOf(readNode(node, limits));
    return { kind: 'interval', start: bound(start), end: bound(end), span };
  }
  const op = members.get('op');
  const args = members.get('args');
  if (op?.kind !== 'string')
    throw wrong(span, 'an object with op and args, property, date, timestamp or interval');
  if (args?.kind !== 'array') throw wrong(span, 'args, a list');
  return readOperation(op.value.toLowerCase(), args.items, span, limits);
}

function readOperation(
  op: string,
  items: readonly JsonNode[],
  span: Span,
  limits: ExpressionLimits,
): Expression {
  const args = readItems(items, limits, span);
  const [first, second, third] = args;
  const expect = (count: number): void => {
    if (args.length === count) return;
    const facts = { name: op, expected: count, found: args.length };
    throw new JsonRefusal(problem('wrong-argument-count', facts, span));
  };
  const comparator = comparators.find((one) => one === op);
  const operator = arithmetic.find((one) => one === op);
  if (op === 'and' || op === 'or') {
    if (args.length < 2) expect(2);
    return { kind: op, operands: args, span };
  }
  if (op === 'not' || op === 'isnull') expect(1);
  else if (op === 'between') expect(3);
  else if (op === 'in' || op === 'like' || comparator !== undefined || operator !== undefined)
    expect(2);
  if (first !== undefined) {
    if (op === 'not') return { kind: 'not', operand: first, span };
    if (op === 'isnull') return { kind: 'isNull', operand: first, span };
    if (second !== undefined) {
      if (comparator !== undefined)
        return { kind: 'comparison', comparator, left: first, right: second, span };
      if (operator !== undefined)
        return { kind: 'arithmetic', operator, left: first, right: second, span };
      if (op === 'like') return { kind: 'like', operand: first, pattern: second, span };
      if (op === 'between' && third !== undefined) {
        return { kind: 'between', operand: first, low: second, high: third, span };
      }
      if (op === 'in') {
        if (second.kind !== 'array' || second.members.length === 0)
          throw wrong(second.span, 'a list of members');
        return { kind: 'in', operand: first, members: second.members, span };
      }
    }
  }
  return { kind: 'call', name: op, args, span };
}

function unexpected({ kind, span }: JsonNode, expected: string): JsonRefusal {
  return new JsonRefusal(problem('unexpected-token', { found: `a JSON ${kind}`, expected }, span));
}

function wrong(span: Span, expected: string): JsonRefusal {
  return new JsonRefusal(problem('unexpected-token', { found: 'something else', expected }, span));
}

/** Writes an expression as CQL2 JSON; reading it again gives the same tree (places aside). */
export function printExpressionJson(expression: Expression): string {
  const operation = (op: string, args: readonly string[]): string =>
    `{"op":${JSON.stringify(op)},"args":[${args.join(',')}]}`;
  const print = printExpressionJson;
  switch (expression.kind) {
    case 'and':
    case 'or':
      return operation(expression.kind, expression.operands.map(print));
    case 'not':
      return operation('not', [print(expression.operand)]);
    case 'comparison':
      return operation(expression.comparator, [print(expression.left), print(expression.right)]);
    case 'arithmetic':
      return operation(expression.operator, [print(expression.left), print(expression.right)]);
    case 'between':
      return operation('between', [expression.operand, expression.low, expression.high].map(print));
    case 'in':
      return operation('in', [
        print(expression.operand),
        `[${expression.members.map(print).join(',')}]`,
      ]);
    case 'like':
      return operation('like', [print(expression.operand), print(expression.pattern)]);
    case 'isNull':
      return operation('isNull', [print(expression.operand)]);
    case 'call':
      return operation(expression.name, expression.args.map(print));
    case 'array':
      return `[${expression.members.map(print).join(',')}]`;
    case 'property':
    case 'date':
    case 'timestamp': {
      const value = expression.kind === 'property' ? expression.name : expression.value;
      return `{${JSON.stringify(expression.kind)}:${JSON.stringify(value)}}`;
    }
    case 'interval':
      return `{"interval":[${printBound(expression.start)},${printBound(expression.end)}]}`;
    case 'unbounded':
      return '".."';
    case 'text':
      return JSON.stringify(expression.value);
    case 'number':
      return jsonNumber(expression.value);
    case 'boolean':
      return String(expression.value);
    default:
      throw new Error(`no JSON for ${JSON.stringify(expression satisfies never)}`);
  }
}

function printBound(bound: Expression): string {
  if (bound.kind === 'date' || bound.kind === 'timestamp') return JSON.stringify(bound.value);
  return printExpressionJson(bound);
}

/** ".5", "5." and "007" are numbers in CQL2 Text, but not in JSON. */
function jsonNumber(spelling: string): string {
  const [, sign = '', whole = '', fraction = '', power = ''] =
    /^(-?)(\d*)(?:\.(\d*))?(e[+-]?\d+)?$/i.exec(spelling) ?? [];
  const digits = whole.replace(/^0+(?=\d)/, '') || '0';
  return `${sign}${digits}${fraction === '' ? '' : `.${fraction}`}${power}`;
}
