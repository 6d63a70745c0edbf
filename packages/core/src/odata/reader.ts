import { defaultLimits, type Span } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { tokensIn, type Token } from './tokens.ts';

/** Leaves the descent at the first error of a text. */
export class Refusal extends Error {
  readonly problem: Problem;

  constructor(one: Problem) {
    super(one.message);
    this.problem = one;
  }
}

/** Levels inside each other, parts and members of lists: as in the query language. */
const { depth: mostLevels, parts: mostParts, members: mostMembers } = defaultLimits;

/** Reads a text token by token. Its methods throw `Refusal`. */
export class TokenReader {
  private at = 0;
  private depth = 0;
  private parts = 0;
  /** Within a list of literals, which count by themselves. */
  private isListed = false;
  private readonly tokens: readonly Token[];

  constructor(text: string) {
    const read = tokensIn(text);
    if ('problem' in read) throw new Refusal(read.problem);
    this.tokens = read.tokens;
  }

  /** The token that comes so many places on; the end where there is none. */
  peek(ahead = 0): Token {
    const token = this.tokens[Math.min(this.at + ahead, this.tokens.length - 1)];
    if (token === undefined) throw new Error('there is always an end');
    return token;
  }

  next(): Token {
    const token = this.peek();
    this.at += 1;
    return token;
  }

  /** Whether the next token is this sign or, letter case ignored, this word. */
  is(value: string, ahead = 0): boolean {
    const token = this.peek(ahead);
    if (token.kind !== 'symbol' && token.kind !== 'word') return false;
    return token.value === value || token.value.toLowerCase() === value;
  }

  /** Takes the next token where it is this one. */
  take(value: string): boolean {
    if (!this.is(value)) return false;
    this.at += 1;
    return true;
  }

  expect(value: string): Token {
    if (!this.is(value)) throw this.unexpected(value);
    return this.next();
  }

  word(expected: string): Token {
    if (this.peek().kind !== 'word') throw this.unexpected(expected);
    return this.next();
  }

  end(): void {
    if (this.peek().kind !== 'end') throw this.unexpected('the end');
  }

  /** What is read inside, one level deeper. */
  inside<Read>(read: () => Read): Read {
    this.depth += 1;
    if (this.depth > mostLevels) {
      throw new Refusal(problem('nested-too-deep', { most: mostLevels }, this.peek().span));
    }
    const result = read();
    this.depth -= 1;
    return result;
  }

  /** Counts a column, a value, a function or an operator. */
  part(): void {
    if (!this.isListed) this.parts += 1;
    if (this.parts > mostParts) {
      throw new Refusal(problem('too-many-parts', { most: mostParts }, this.peek().span));
    }
  }

  /** The members of a list, as many as a list may have. */
  members<Member>(read: () => Member): readonly Member[] {
    const members: Member[] = [];
    const before = this.isListed;
    this.isListed = true;
    do {
      if (members.length === mostMembers) {
        throw new Refusal(problem('too-many-members', { most: mostMembers }, this.peek().span));
      }
      members.push(read());
    } while (this.take(','));
    this.isListed = before;
    return members;
  }

  /** One of several operators in a row is one level more. */
  level(levels: number): void {
    if (this.depth + levels <= mostLevels) return;
    throw new Refusal(problem('nested-too-deep', { most: mostLevels }, this.peek().span));
  }

  unexpected(expected: string): Refusal {
    const { kind, value, span } = this.peek();
    if (kind === 'end') return new Refusal(problem('unexpected-end', { expected }, span));
    const found = kind === 'text' ? 'a text' : value.slice(0, 40);
    return new Refusal(problem('unexpected-token', { found, expected }, span));
  }
}

/** What the standard has and this service does not. */
export function notImplemented(what: string, span?: Span): Refusal {
  return new Refusal(problem('not-implemented', { what }, span));
}

/** What reading gives, or the problem that it ends at, in a parameter. */
export function reading<Read>(
  parameter: string,
  problems: Problem[],
  read: () => Read,
): Read | undefined {
  try {
    return read();
  } catch (thrown) {
    if (!(thrown instanceof Refusal)) throw thrown;
    problems.push({ ...thrown.problem, parameter });
    return undefined;
  }
}
