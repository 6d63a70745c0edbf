import { problem, type Problem } from '../problem/index.ts';
import type { Span } from './expression.ts';

/** A JSON value with its place in the text. Numbers keep their spelling. */
export type JsonNode = (
  | { readonly kind: 'object'; readonly members: ReadonlyMap<string, JsonNode> }
  | { readonly kind: 'array'; readonly items: readonly JsonNode[] }
  | { readonly kind: 'string'; readonly value: string }
  | { readonly kind: 'number'; readonly value: string }
  | { readonly kind: 'boolean'; readonly value: boolean }
  | { readonly kind: 'null' }
) & { readonly span: Span };

/** Leaves the descent at the first error. */
export class JsonRefusal extends Error {
  readonly problem: Problem;
  constructor(one: Problem) {
    super(one.message);
    this.problem = one;
  }
}

const space = /[ \t\n\r]*/y;
const number = /-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?/y;
// Up to the closing quote; escapes are decoded by JSON.parse afterwards.
const string = /"(?:[^"\\\u0000-\u001f]|\\.)*"/y;
const literals = ['true', 'false', 'null'] as const;

/**
 * Reads JSON text (RFC 8259) with places and without loss of digits, which `JSON.parse` cannot
 * give. @throws JsonRefusal
 */
export function readJson(source: string, depth: number): JsonNode {
  const reader = new Reader(source, depth);
  const node = reader.value(0);
  reader.end();
  return node;
}

class Reader {
  private at = 0;
  private readonly source: string;
  private readonly depth: number;

  constructor(source: string, depth: number) {
    this.source = source;
    this.depth = depth;
  }

  // value = object / array / number / string / false / null / true
  value(level: number): JsonNode {
    this.match(space);
    const start = this.at;
    if (level > this.depth) {
      throw this.refuse(problem('nested-too-deep', { most: this.depth }, this.here()));
    }
    if (this.take('{')) return this.object(start, level);
    if (this.take('[')) return this.array(start, level);
    const text = this.match(string);
    if (text !== undefined) {
      return { kind: 'string', value: this.decode(text, start), span: this.since(start) };
    }
    const digits = this.match(number);
    if (digits !== undefined) return { kind: 'number', value: digits, span: this.since(start) };
    const literal = literals.find((one) => this.take(one));
    if (literal === 'null') return { kind: 'null', span: this.since(start) };
    if (literal !== undefined) {
      return { kind: 'boolean', value: literal === 'true', span: this.since(start) };
    }
    throw this.unexpected('a JSON value');
  }

  end(): void {
    this.match(space);
    if (this.at < this.source.length) throw this.unexpected('the end');
  }

  // object = "{" [ member *( "," member ) ] "}"
  private object(start: number, level: number): JsonNode {
    const members = new Map<string, JsonNode>();
    this.match(space);
    if (!this.take('}')) {
      do {
        this.match(space);
        const at = this.at;
        const name = this.match(string);
        if (name === undefined) throw this.unexpected('a name in double quotes');
        this.match(space);
        if (!this.take(':')) throw this.unexpected('a colon');
        const decoded = this.decode(name, at);
        if (members.has(decoded)) {
          const place = { start: at, end: at + name.length };
          throw this.refuse(problem('repeated-member', { name: decoded.slice(0, 40) }, place));
        }
        members.set(decoded, this.value(level + 1));
        this.match(space);
      } while (this.take(','));
      if (!this.take('}')) throw this.unexpected('a comma or }');
    }
    return { kind: 'object', members, span: this.since(start) };
  }

  // array = "[" [ value *( "," value ) ] "]"
  private array(start: number, level: number): JsonNode {
    const items: JsonNode[] = [];
    this.match(space);
    if (!this.take(']')) {
      do {
        items.push(this.value(level + 1));
        this.match(space);
      } while (this.take(','));
      if (!this.take(']')) throw this.unexpected('a comma or ]');
    }
    return { kind: 'array', items, span: this.since(start) };
  }

  private decode(quoted: string, start: number): string {
    try {
      return JSON.parse(quoted) as string;
    } catch {
      const place = { start, end: this.at };
      throw this.refuse(
        problem('unexpected-token', { found: 'an unknown escape', expected: 'JSON text' }, place),
      );
    }
  }

  private match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.source)?.[0];
    if (found !== undefined) this.at += found.length;
    return found;
  }

  private take(text: string): boolean {
    if (!this.source.startsWith(text, this.at)) return false;
    this.at += text.length;
    return true;
  }

  private since(start: number): Span {
    return { start, end: this.at };
  }

  private here(): Span {
    return { start: this.at, end: Math.min(this.source.length, this.at + 1) };
  }

  private unexpected(expected: string): JsonRefusal {
    const found = String.fromCodePoint(this.source.codePointAt(this.at) ?? 0);
    return this.refuse(
      this.at >= this.source.length
        ? problem('unexpected-end', { expected }, this.here())
        : problem('unexpected-token', { found, expected }, this.here()),
    );
  }

  private refuse(one: Problem): JsonRefusal {
    return new JsonRefusal(one);
  }
}
