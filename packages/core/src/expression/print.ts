import type { ArithmeticOperator, Expression } from './expression.ts';

const plainName = /^[\p{L}\p{Nl}_:][\p{L}\p{Nl}\p{Mn}\p{Mc}\p{Nd}\p{Pc}:.]*$/u;
const words = new Set([
  'and',
  'or',
  'not',
  'like',
  'between',
  'in',
  'is',
  'null',
  'true',
  'false',
  'div',
]);

// How tightly a form binds; a looser operand stands in parentheses.
const looseness = {
  or: 1,
  and: 2,
  not: 3,
  predicate: 4,
  scalar: 5,
  sum: 5,
  product: 6,
  power: 7,
  operand: 8,
} as const;

const bonds: Readonly<Record<ArithmeticOperator, number>> = {
  '+': looseness.sum,
  '-': looseness.sum,
  '*': looseness.product,
  '/': looseness.product,
  '%': looseness.product,
  div: looseness.product,
  '^': looseness.power,
};

/**
 * Writes an expression as CQL2 Text, in its canonical form: keywords in capitals, single blanks,
 * no needless parentheses. Reading it again gives the same tree (places aside).
 */
export function printExpression(expression: Expression): string {
  switch (expression.kind) {
    case 'and':
    case 'or': {
      const bond = looseness[expression.kind];
      // A chain directly inside the same kind keeps its parentheses: they are part of the tree.
      const parts = expression.operands.map((operand) => printAtLeast(operand, bond + 1));
      return parts.join(expression.kind === 'and' ? ' AND ' : ' OR ');
    }
    case 'not':
      return printNot(expression.operand);
    case 'comparison': {
      const { left, comparator, right } = expression;
      return `${scalar(left)} ${comparator} ${scalar(right)}`;
    }
    case 'between':
    case 'in':
    case 'like':
    case 'isNull':
      return printPredicate(expression, '');
    case 'arithmetic': {
      const { operator, left, right } = expression;
      const bond = bonds[operator];
      // Chains are read from the left; on the right an equal bond needs parentheses.
      return `${printAtLeast(left, bond)} ${operator.toUpperCase()} ${printAtLeast(right, bond + 1)}`;
    }
    case 'interval':
      return `INTERVAL(${printBound(expression.start)}, ${printBound(expression.end)})`;
    case 'unbounded':
      return `'..'`;
    case 'array':
      return `(${expression.members.map(printExpression).join(', ')})`;
    case 'property':
      return printName(expression.name);
    case 'call':
      return `${printFunction(expression.name)}(${expression.args.map(printExpression).join(', ')})`;
    case 'text':
      return printText(expression.value);
    case 'number':
      return expression.value;
    case 'boolean':
      return expression.value ? 'TRUE' : 'FALSE';
    case 'date':
      return `DATE(${printText(expression.value)})`;
    case 'timestamp':
      return `TIMESTAMP(${printText(expression.value)})`;
    default:
      throw new Error(`no spelling for ${JSON.stringify(expression satisfies never)}`);
  }
}

/** A text literal: in single quotes, a quote inside doubled, backslashes before a quote too. */
export function printText(value: string): string {
  // The look-behind lets a run be tried from its first backslash only: linear.
  const inner = value.replace(
    /(?<!\\)(\\*)('|$)/g,
    (_, run: string, quote: string) => run + run + quote + quote,
  );
  return `'${inner}'`;
}

type Predicate = Extract<Expression, { kind: 'between' | 'in' | 'like' | 'isNull' }>;

function isPredicate(expression: Expression): expression is Predicate {
  const { kind } = expression;
  return kind === 'between' || kind === 'in' || kind === 'like' || kind === 'isNull';
}

function printNot(operand: Expression): string {
  if (isPredicate(operand)) return printPredicate(operand, 'NOT ');
  return `NOT ${printAtLeast(operand, looseness.not)}`;
}

function printPredicate(expression: Predicate, negation: string): string {
  const operand = scalar(expression.operand);
  switch (expression.kind) {
    case 'between':
      return `${operand} ${negation}BETWEEN ${scalar(expression.low)} AND ${scalar(expression.high)}`;
    case 'in':
      return `${operand} ${negation}IN (${expression.members.map(printExpression).join(', ')})`;
    case 'like':
      return `${operand} ${negation}LIKE ${scalar(expression.pattern)}`;
    case 'isNull':
      return `${operand} IS ${negation}NULL`;
    default:
      throw new Error(`no spelling for ${JSON.stringify(expression satisfies never)}`);
  }
}

function scalar(expression: Expression): string {
  return printAtLeast(expression, looseness.scalar);
}

function printAtLeast(expression: Expression, bond: number): string {
  const printed = printExpression(expression);
  return bondOf(expression) < bond ? `(${printed})` : printed;
}

function bondOf(expression: Expression): number {
  switch (expression.kind) {
    case 'or':
    case 'and':
      // A chain of one is printed as its operand.
      return expression.operands.length === 1 ? 0 : looseness[expression.kind];
    case 'not':
      return isPredicate(expression.operand) ? looseness.predicate : looseness.not;
    case 'comparison':
    case 'between':
    case 'in':
    case 'like':
    case 'isNull':
      return looseness.predicate;
    case 'arithmetic':
      return bonds[expression.operator];
    case 'interval':
    case 'unbounded':
    case 'array':
    case 'property':
    case 'call':
    case 'text':
    case 'number':
    case 'boolean':
    case 'date':
    case 'timestamp':
      return looseness.operand;
    default:
      throw new Error(`no bond for ${JSON.stringify(expression satisfies never)}`);
  }
}

/** In capitals, where that can be taken back. */
function printFunction(name: string): string {
  return /^[a-z0-9_]+$/.test(name) ? name.toUpperCase() : name;
}

function printBound(bound: Expression): string {
  if (bound.kind === 'date' || bound.kind === 'timestamp') return printText(bound.value);
  return printExpression(bound);
}

/** A name, in double quotes where it needs them. */
export function printName(name: string): string {
  const quoted = !plainName.test(name) || words.has(name.toLowerCase());
  return quoted ? `"${name.replaceAll('"', '""')}"` : name;
}
