import { nearest, problem, type Problem } from '../problem/index.ts';
import type { Comparator, Expression, Span } from './expression.ts';
import { tokenize, type Token } from './tokens.ts';

/** What a filter may be at most. */
export interface ExpressionLimits {
  /** Levels of parentheses, NOT and function calls inside each other. */
  readonly depth: number;
  /** Members of one IN list. */
  readonly members: number;
}

const defaultLimits: ExpressionLimits = { depth: 100, members: 10_000 };

const comparators: ReadonlySet<string> = new Set(['=', '<>', '<', '<=', '>', '>=']);
const keywords = ['AND', 'OR', 'NOT', 'LIKE', 'BETWEEN', 'IN', 'IS', 'NULL', 'TRUE', 'FALSE'];
const reserved: ReadonlySet<string> = new Set(keywords);
const operators = ['=', 'LIKE', 'BETWEEN', 'IN', 'IS NULL', 'AND', 'OR', 'NOT'];

/**
 * Reads a filter in CQL2 Text. Never throws; what is no filter gives one problem, at its place.
 * Positions are kept in every node. Keywords and function names are read in any letter case.
 */
export function parseExpression(
  source: string,
  limits: ExpressionLimits = defaultLimits,
): { readonly expression: Expression } | { readonly problems: readonly Problem[] } {
  const { tokens, problem: stray } = tokenize(source);
  if (stray !== undefined) return { problems: [stray] };
  try {
    return { expression: new Parser(tokens, limits).whole() };
  } catch (thrown) {
    if (thrown instanceof Refusal) return { problems: [thrown.problem] };
    throw thrown;
  }
}

/** Leaves the descent at the first mistake; caught in `parseExpression` only. */
class Refusal extends Error {
  readonly problem: Problem;
  constructor(one: Problem) {
    super(one.message);
    this.problem = one;
  }
}

class Parser {
  private at = 0;
  private depth = 0;
  private readonly tokens: readonly Token[];
  private readonly limits: ExpressionLimits;

  constructor(tokens: readonly Token[], limits: ExpressionLimits) {
    this.tokens = tokens;
    this.limits = limits;
  }

  // filter = booleanExpression, and nothing after it
  whole(): Expression {
    const expression = this.disjunction();
    if (this.token.kind !== 'end') throw this.unexpected('AND, OR or the end', operators);
    return expression;
  }

  // booleanExpression = booleanTerm *( OR booleanTerm )
  private disjunction(): Expression {
    return this.chain('or', () => this.chain('and', () => this.factor()));
  }

  // booleanTerm = booleanFactor *( AND booleanFactor )
  private chain(kind: 'and' | 'or', part: () => Expression): Expression {
    const first = part();
    if (!this.isWord(kind.toUpperCase())) return first;
    const operands = [first];
    while (this.takeWord(kind.toUpperCase())) operands.push(part());
    const last = operands.at(-1) ?? first;
    return { kind, operands, span: join(first.span, last.span) };
  }

  // booleanFactor = [ NOT ] booleanPrimary
  private factor(): Expression {
    const start = this.token;
    if (!this.takeWord('NOT')) return this.predicate();
    const operand = this.nested(() => this.factor());
    return { kind: 'not', operand, span: join(start, operand.span) };
  }

  // predicate = scalar [ comparator scalar | IS [NOT] NULL | [NOT] ( LIKE | BETWEEN | IN ) … ]
  private predicate(): Expression {
    const left = this.scalar();
    if (this.token.kind === 'symbol' && comparators.has(this.token.value)) {
      const comparator = this.take().value as Comparator;
      const right = this.scalar();
      return { kind: 'comparison', comparator, left, right, span: join(left.span, right.span) };
    }
    if (this.takeWord('IS')) {
      const negated = this.takeWord('NOT');
      const end = this.expectWord('NULL', negated ? 'NULL' : 'NULL or NOT NULL');
      return this.negate(negated, { kind: 'isNull', operand: left, span: join(left.span, end) });
    }
    const negated = this.isWord('NOT') && this.takeWord('NOT');
    if (this.takeWord('LIKE')) {
      const pattern = this.scalar();
      const span = join(left.span, pattern.span);
      return this.negate(negated, { kind: 'like', operand: left, pattern, span });
    }
    if (this.takeWord('BETWEEN')) {
      const low = this.scalar();
      this.expectWord('AND', 'AND and the upper end');
      const high = this.scalar();
      const span = join(left.span, high.span);
      return this.negate(negated, { kind: 'between', operand: left, low, high, span });
    }
    if (this.takeWord('IN')) {
      const { items, span } = this.list();
      const place = join(left.span, span);
      return this.negate(negated, { kind: 'in', operand: left, members: items, span: place });
    }
    if (negated) throw this.unexpected('LIKE, BETWEEN or IN', ['LIKE', 'BETWEEN', 'IN']);
    return left;
  }

  // scalar = literal / propertyName / function / "(" booleanExpression ")"
  private scalar(): Expression {
    const token = this.token;
    switch (token.kind) {
      case 'text':
        this.take();
        return { kind: 'text', value: token.value, span: spanOf(token) };
      case 'number':
        this.take();
        return { kind: 'number', value: token.value, span: spanOf(token) };
      case 'name':
        this.take();
        return { kind: 'property', name: token.value, span: spanOf(token) };
      case 'word':
        return this.word(token);
      case 'symbol':
        if (token.value === '(') return this.parenthesis();
        if (token.value === '-' || token.value === '+') return this.signedNumber();
        throw this.unexpected('a column or a value');
      case 'end':
        throw this.unexpected('a column or a value');
      default:
        throw new Error(`unknown token ${JSON.stringify(token.kind satisfies never)}`);
    }
  }

  private parenthesis(): Expression {
    const open = this.take();
    const inner = this.nested(() => this.disjunction());
    const close = this.expectSymbol(')', 'a closing parenthesis, AND or OR');
    return { ...inner, span: join(open, close) };
  }

  // numericLiteral = [ sign ] unsignedNumericLiteral
  private signedNumber(): Expression {
    const sign = this.take();
    const digits = this.token;
    if (digits.kind !== 'number') throw this.unexpected('a number');
    this.take();
    const value = sign.value === '-' ? `-${digits.value}` : digits.value;
    return { kind: 'number', value, span: join(sign, digits) };
  }

  // A word is a boolean, DATE('…'), TIMESTAMP('…'), a function call or a property name.
  private word(token: Token): Expression {
    const upper = token.value.toUpperCase();
    if (upper === 'TRUE' || upper === 'FALSE') {
      this.take();
      return { kind: 'boolean', value: upper === 'TRUE', span: spanOf(token) };
    }
    if (upper === 'NULL') throw new Refusal(problem('null-literal', {}, token));
    if (reserved.has(upper)) throw this.unexpected('a column or a value');
    this.take();
    if (!this.isSymbol('(')) {
      return { kind: 'property', name: token.value, span: spanOf(token) };
    }
    const { items, span } = this.nested(() => this.list());
    const place = join(token, span);
    const [only] = items;
    if ((upper === 'DATE' || upper === 'TIMESTAMP') && items.length === 1 && only !== undefined) {
      if (only.kind !== 'text') {
        const expected =
          upper === 'DATE' ? "DATE('2024-02-29')" : "TIMESTAMP('2024-02-29T10:15:00Z')";
        const facts = { found: 'something else', expected: `text in quotes, as in ${expected}` };
        throw new Refusal(problem('unexpected-token', facts, only.span));
      }
      return { kind: upper === 'DATE' ? 'date' : 'timestamp', value: only.value, span: place };
    }
    return { kind: 'call', name: token.value.toLowerCase(), args: items, span: place };
  }

  // "(" scalar *( "," scalar ) ")"
  private list(): { items: Expression[]; span: Span } {
    const open = this.expectSymbol('(', 'a list in parentheses');
    const items = [this.scalar()];
    while (this.isSymbol(',')) {
      this.take();
      if (items.length === this.limits.members) {
        throw new Refusal(problem('too-many-members', { most: this.limits.members }, this.token));
      }
      items.push(this.scalar());
    }
    const close = this.expectSymbol(')', 'a comma or a closing parenthesis');
    return { items, span: join(open, close) };
  }

  private nested<Result>(part: () => Result): Result {
    if (this.depth === this.limits.depth) {
      throw new Refusal(problem('nested-too-deep', { most: this.limits.depth }, this.token));
    }
    this.depth += 1;
    const result = part();
    this.depth -= 1;
    return result;
  }

  private negate(negated: boolean, operand: Expression): Expression {
    return negated ? { kind: 'not', operand, span: operand.span } : operand;
  }

  private get token(): Token {
    // The last token is `end`, which is never taken.
    return this.tokens[this.at] ?? { kind: 'end', value: '', start: 0, end: 0 };
  }

  private take(): Token {
    const { token } = this;
    this.at += 1;
    return token;
  }

  private isWord(upper: string): boolean {
    return this.token.kind === 'word' && this.token.value.toUpperCase() === upper;
  }

  private takeWord(upper: string): boolean {
    if (!this.isWord(upper)) return false;
    this.take();
    return true;
  }

  private isSymbol(value: string): boolean {
    return this.token.kind === 'symbol' && this.token.value === value;
  }

  private expectWord(upper: string, expected: string): Token {
    if (!this.isWord(upper)) throw this.unexpected(expected, [upper]);
    return this.take();
  }

  private expectSymbol(value: string, expected: string): Token {
    if (!this.isSymbol(value)) throw this.unexpected(expected);
    return this.take();
  }

  private unexpected(expected: string, candidates: readonly string[] = []): Refusal {
    const { token } = this;
    if (token.kind === 'end') {
      return new Refusal(problem('unexpected-end', { expected }, token));
    }
    const near = token.kind === 'word' ? nearest(token.value, candidates) : undefined;
    const facts = {
      found: foundName(token),
      expected: near === undefined ? expected : `${expected} (perhaps ${near})`,
    };
    return new Refusal(problem('unexpected-token', facts, token));
  }
}

/** What stands there, without repeating a value. */
function foundName(token: Token): string {
  if (token.kind === 'text') return 'a text';
  if (token.kind === 'number') return 'a number';
  return token.value.length > 40 ? `${token.value.slice(0, 40)}…` : token.value;
}

function spanOf({ start, end }: Span): Span {
  return { start, end };
}

function join(first: Span, last: Span): Span {
  return { start: first.start, end: last.end };
}
