import { nearest, problem, type Problem } from '../problem/index.ts';
import type { ArithmeticOperator, Comparator, Expression, Span } from './expression.ts';
import { defaultLimits, type ExpressionLimits } from './limits.ts';
import { boundOf, foundName, join, spanOf } from './places.ts';
import { tokenize, type Token } from './tokens.ts';

const comparators: ReadonlySet<string> = new Set(['=', '<>', '<', '<=', '>', '>=']);
const operators = ['=', 'LIKE', 'BETWEEN', 'IN', 'IS NULL', 'AND', 'OR', 'NOT'];

/**
 * Reads a filter in CQL2 Text. Never throws; what is no filter gives one problem, at its place.
 * Positions are stored in every node. Keywords and function names are read in any letter case.
 */
export function parseExpression(
  source: string,
  limits: ExpressionLimits = defaultLimits,
): { readonly expression: Expression } | { readonly problems: readonly Problem[] } {
  return reading(source, limits, (parser) => ({ expression: parser.whole() }));
}

/**
 * Reads a list of values by commas, such as the columns and functions that rows are grouped by.
 * Never throws; one problem, at its place, for what is no such list.
 */
export function parseValues(
  source: string,
  limits: ExpressionLimits = defaultLimits,
): { readonly values: readonly Expression[] } | { readonly problems: readonly Problem[] } {
  return reading(source, limits, (parser) => ({ values: parser.values() }));
}

function reading<Result>(
  source: string,
  limits: ExpressionLimits,
  read: (parser: Parser) => Result,
): Result | { readonly problems: readonly Problem[] } {
  const { tokens, problem: stray } = tokenize(source);
  if (stray !== undefined) return { problems: [stray] };
  try {
    return read(new Parser(tokens, limits));
  } catch (thrown) {
    if (thrown instanceof Refusal) return { problems: [thrown.problem] };
    throw thrown;
  }
}

/** Leaves the descent at the first error; caught in `reading` only. */
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
  private parts = 0;
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

  // values = scalar *( "," scalar ), and nothing after it
  values(): readonly Expression[] {
    const values = [this.scalar()];
    while (this.isSymbol(',')) {
      this.take();
      values.push(this.scalar());
    }
    if (this.token.kind !== 'end') throw this.unexpected('a comma or the end');
    return values;
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

  // scalar = term *( ( "+" / "-" ) term )
  private scalar(): Expression {
    return this.leftward(['+', '-'], () => this.term());
  }

  // term = power *( ( "*" / "/" / "%" / DIV ) power )
  private term(): Expression {
    return this.leftward(['*', '/', '%', 'div'], () => this.power());
  }

  // power = operand *( "^" operand )
  private power(): Expression {
    return this.leftward(['^'], () => this.operand());
  }

  private leftward(operators: readonly ArithmeticOperator[], part: () => Expression): Expression {
    let left = part();
    // Each operator makes the tree one level deeper.
    for (let level = this.depth; ; level += 1) {
      const { kind, value, keyword } = this.token;
      if (kind !== 'symbol' && keyword !== 'DIV') return left;
      const written = kind === 'symbol' ? value : 'div';
      const operator = operators.find((one) => one === written);
      if (operator === undefined) return left;
      if (level >= this.limits.depth) {
        throw new Refusal(problem('nested-too-deep', { most: this.limits.depth }, this.token));
      }
      this.take();
      const right = part();
      left = { kind: 'arithmetic', operator, left, right, span: join(left.span, right.span) };
    }
  }

  // operand = literal / propertyName / function / "(" booleanExpression ")" / array
  private operand(): Expression {
    const token = this.token;
    this.parts += 1;
    if (this.parts > this.limits.parts) {
      throw new Refusal(problem('too-many-parts', { most: this.limits.parts }, token));
    }
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
        if (token.value === '-' || token.value === '+') return this.signed();
        throw this.unexpected('a column or a value');
      case 'end':
        throw this.unexpected('a column or a value');
      default:
        throw new Error(`unknown token ${JSON.stringify(token.kind satisfies never)}`);
    }
  }

  // A list in parentheses is an array; one item alone is itself.
  private parenthesis(): Expression {
    const { items, span } = this.list();
    const [only] = items;
    if (only !== undefined && items.length === 1) return { ...only, span };
    return { kind: 'array', members: items, span };
  }

  // [ sign ] operand; a minus before what is no number is a factor of -1, as in CQL2 JSON.
  private signed(): Expression {
    const sign = this.take();
    const { token } = this;
    if (token.kind === 'number') {
      this.take();
      const value = sign.value === '-' ? `-${token.value}` : token.value;
      return { kind: 'number', value, span: join(sign, token) };
    }
    const operand = this.nested(() => this.operand());
    if (sign.value === '+') return operand;
    const left: Expression = { kind: 'number', value: '-1', span: spanOf(sign) };
    const span = join(sign, operand.span);
    return { kind: 'arithmetic', operator: '*', left, right: operand, span };
  }

  // A word is a boolean, DATE(…), TIMESTAMP(…), INTERVAL(…), a function call or a property name.
  private word(token: Token): Expression {
    const { keyword } = token;
    if (keyword === 'TRUE' || keyword === 'FALSE') {
      this.take();
      return { kind: 'boolean', value: keyword === 'TRUE', span: spanOf(token) };
    }
    if (keyword === 'NULL') throw new Refusal(problem('null-literal', {}, token));
    if (keyword !== undefined) throw this.unexpected('a column or a value');
    this.take();
    if (!this.isSymbol('(')) {
      return { kind: 'property', name: token.value, span: spanOf(token) };
    }
    const upper = token.value.toUpperCase();
    const { items, span } = this.callArguments(upper.startsWith('A_'));
    const place = join(token, span);
    const [only] = items;
    if (upper === 'DATE' || upper === 'TIMESTAMP') {
      if (only === undefined || items.length > 1) {
        const facts = { name: upper, expected: 1, found: items.length };
        throw new Refusal(problem('wrong-argument-count', facts, place));
      }
      if (only.kind !== 'text') {
        const expected =
          upper === 'DATE' ? "DATE('2024-02-29')" : "TIMESTAMP('2024-02-29T10:15:00Z')";
        const facts = { found: 'something else', expected: `text in quotes, as in ${expected}` };
        throw new Refusal(problem('unexpected-token', facts, only.span));
      }
      return { kind: upper === 'DATE' ? 'date' : 'timestamp', value: only.value, span: place };
    }
    if (upper === 'INTERVAL') return this.interval(items, place);
    return { kind: 'call', name: token.value.toLowerCase(), args: items, span: place };
  }

  // INTERVAL "(" bound "," bound ")"; a bound is '..', a date or a timestamp in quotes, or a name
  private interval(items: readonly Expression[], span: Span): Expression {
    const [start, end] = items.map(boundOf);
    if (start === undefined || end === undefined || items.length !== 2) {
      const facts = { name: 'INTERVAL', expected: 2, found: items.length };
      throw new Refusal(problem('wrong-argument-count', facts, span));
    }
    return { kind: 'interval', start, end, span };
  }

  // "(" [ argument *( "," argument ) ] ")"
  private callArguments(ofArrayFunction: boolean): { items: Expression[]; span: Span } {
    if (this.isEmptyList()) {
      const open = this.take();
      return { items: [], span: join(open, this.take()) };
    }
    return ofArrayFunction ? this.list(() => this.arrayArgument()) : this.list();
  }

  // An argument of an array function: what stands in parentheses is a list, even of one or none.
  private arrayArgument(): Expression {
    if (!this.isSymbol('(')) return this.scalar();
    const open = this.token;
    if (this.isEmptyList()) {
      this.take();
      return { kind: 'array', members: [], span: join(open, this.take()) };
    }
    const { items, span } = this.list();
    return { kind: 'array', members: items, span };
  }

  // "(" item *( "," item ) ")"
  private list(item: () => Expression = () => this.disjunction()): {
    items: Expression[];
    span: Span;
  } {
    const open = this.expectSymbol('(', 'a list in parentheses');
    return this.nested(() => {
      const items = [item()];
      while (this.isSymbol(',')) {
        this.take();
        if (items.length === this.limits.members) {
          throw new Refusal(problem('too-many-members', { most: this.limits.members }, this.token));
        }
        const parts = this.parts;
        const next = item();
        // Literals of a list are bound together.
        if (literals.has(next.kind)) this.parts = parts;
        items.push(next);
      }
      const close = this.expectSymbol(')', 'a comma or a closing parenthesis');
      return { items, span: join(open, close) };
    });
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

  private isEmptyList(): boolean {
    const next = this.tokens[this.at + 1];
    return next?.kind === 'symbol' && next.value === ')';
  }

  private isWord(upper: string): boolean {
    return this.token.keyword === upper;
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

const literals: ReadonlySet<Expression['kind']> = new Set([
  'text',
  'number',
  'boolean',
  'date',
  'timestamp',
]);
