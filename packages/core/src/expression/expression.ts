/**
 * A place in the text an expression was read from: from `start` up to, not including, `end`,
 * in UTF-16 units of the decoded parameter. Expressions made by code have the place 0–0.
 */
export interface Span {
  readonly start: number;
  readonly end: number;
}

export type Comparator = '=' | '<>' | '<' | '<=' | '>' | '>=';

/** `div` is whole-number division, `%` its remainder, `^` the power. */
export type ArithmeticOperator = '+' | '-' | '*' | '/' | '%' | 'div' | '^';

/**
 * A filter as it was written: names and types are not looked up yet (`check` does that).
 * Numbers keep their spelling, so that no digit is lost.
 */
export type Expression = (
  | { readonly kind: 'and' | 'or'; readonly operands: readonly Expression[] }
  | { readonly kind: 'not'; readonly operand: Expression }
  | {
      readonly kind: 'comparison';
      readonly comparator: Comparator;
      readonly left: Expression;
      readonly right: Expression;
    }
  | {
      readonly kind: 'between';
      readonly operand: Expression;
      readonly low: Expression;
      readonly high: Expression;
    }
  | { readonly kind: 'in'; readonly operand: Expression; readonly members: readonly Expression[] }
  | { readonly kind: 'like'; readonly operand: Expression; readonly pattern: Expression }
  | { readonly kind: 'isNull'; readonly operand: Expression }
  | {
      readonly kind: 'arithmetic';
      readonly operator: ArithmeticOperator;
      readonly left: Expression;
      readonly right: Expression;
    }
  /** A span of time; an open end is `unbounded`. */
  | { readonly kind: 'interval'; readonly start: Expression; readonly end: Expression }
  | { readonly kind: 'unbounded' }
  /** A list as one value, as the array functions take it. */
  | { readonly kind: 'array'; readonly members: readonly Expression[] }
  | { readonly kind: 'property'; readonly name: string }
  /** `name` in lower case. */
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Expression[] }
  | { readonly kind: 'text'; readonly value: string }
  | { readonly kind: 'number'; readonly value: string }
  | { readonly kind: 'boolean'; readonly value: boolean }
  | { readonly kind: 'date'; readonly value: string }
  | { readonly kind: 'timestamp'; readonly value: string }
) & { readonly span: Span };

const nowhere: Span = { start: 0, end: 0 };

export function property(name: string): Expression {
  return { kind: 'property', name, span: nowhere };
}

export function text(value: string): Expression {
  return { kind: 'text', value, span: nowhere };
}

/** A number literal from its decimal spelling, such as "-12.50" or "1e6". */
export function number(value: string): Expression {
  return { kind: 'number', value, span: nowhere };
}

export function compare(left: Expression, comparator: Comparator, right: Expression): Expression {
  return { kind: 'comparison', comparator, left, right, span: nowhere };
}

/** All operands joined by AND; one operand is itself, none is undefined (no condition). */
export function and(operands: readonly Expression[]): Expression | undefined {
  return operands.length <= 1 ? operands[0] : { kind: 'and', operands, span: nowhere };
}

/** All operands joined by OR; one operand is itself, none is undefined. */
export function or(operands: readonly Expression[]): Expression | undefined {
  return operands.length <= 1 ? operands[0] : { kind: 'or', operands, span: nowhere };
}

export function not(operand: Expression): Expression {
  return { kind: 'not', operand, span: nowhere };
}

/** A call of a function; `name` in lower case. */
export function call(name: string, ...args: readonly Expression[]): Expression {
  return { kind: 'call', name, args, span: nowhere };
}

/** Whether a value is null. */
export function missing(operand: Expression): Expression {
  return { kind: 'isNull', operand, span: nowhere };
}

/** The expressions that an expression is made of, in the order in which they are written. */
export function childrenOf(expression: Expression): readonly Expression[] {
  switch (expression.kind) {
    case 'and':
    case 'or':
      return expression.operands;
    case 'not':
    case 'isNull':
      return [expression.operand];
    case 'comparison':
    case 'arithmetic':
      return [expression.left, expression.right];
    case 'between':
      return [expression.operand, expression.low, expression.high];
    case 'in':
      return [expression.operand, ...expression.members];
    case 'like':
      return [expression.operand, expression.pattern];
    case 'interval':
      return [expression.start, expression.end];
    case 'array':
      return expression.members;
    case 'call':
      return expression.args;
    case 'unbounded':
    case 'property':
    case 'text':
    case 'number':
    case 'boolean':
    case 'date':
    case 'timestamp':
      return [];
    default:
      throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
  }
}

/** Whether an expression is the column of that name, and nothing more. */
export function isProperty(expression: Expression, name: string): boolean {
  return expression.kind === 'property' && expression.name === name;
}

const logical: ReadonlySet<Expression['kind']> = new Set([
  'and',
  'or',
  'not',
  'comparison',
  'between',
  'in',
  'like',
  'isNull',
]);

/** Whether an expression is a condition by its form, whatever its columns and functions are. */
export function isLogical({ kind }: Expression): boolean {
  return logical.has(kind);
}

/** Keys that one `SELECTED` names at most. */
export const mostSelected = 1_000;
