import type { Span } from '../expression/index.ts';

export type ComparisonOperator = 'eq' | 'ne' | 'gt' | 'ge' | 'lt' | 'le';
export type ArithmeticName = 'add' | 'sub' | 'mul' | 'div' | 'divby' | 'mod';

/** A name of a path, with its place. */
export interface Segment {
  readonly name: string;
  readonly span: Span;
}

/** A literal of OData: what kind it is, and its text. */
export type LiteralKind =
  | 'text'
  | 'number'
  | 'boolean'
  | 'null'
  | 'date'
  | 'timestamp'
  /** Written as the database takes it: a time, a duration, an identifier. */
  | 'notation';

/** An expression as it was written; names are not looked up yet. */
export type Node = (
  | { readonly kind: 'and' | 'or'; readonly operands: readonly Node[] }
  | { readonly kind: 'not' | 'negative'; readonly operand: Node }
  | {
      readonly kind: 'comparison';
      readonly operator: ComparisonOperator;
      readonly left: Node;
      readonly right: Node;
    }
  | { readonly kind: 'in'; readonly operand: Node; readonly members: readonly Node[] }
  | {
      readonly kind: 'arithmetic';
      readonly operator: ArithmeticName;
      readonly left: Node;
      readonly right: Node;
    }
  | { readonly kind: 'literal'; readonly of: LiteralKind; readonly value: string }
  | { readonly kind: 'path'; readonly segments: readonly Segment[] }
  /** `passages/$count`. */
  | { readonly kind: 'count'; readonly segments: readonly Segment[] }
  | {
      readonly kind: 'lambda';
      readonly which: 'any' | 'all';
      readonly segments: readonly Segment[];
      readonly variable: string;
      /** Absent in `any()`. */
      readonly condition?: Node;
    }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Node[] }
) & { readonly span: Span };
