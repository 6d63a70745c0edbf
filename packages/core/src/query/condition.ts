import {
  and,
  childrenOf,
  compare,
  isProperty,
  number,
  property,
  text,
  type Expression,
} from '../expression/index.ts';
import { isNumeric, type ColumnDescription } from '../schema/index.ts';
import { readMoments, writeMoments } from './moments.ts';

/**
 * What a reader may set for one column from its header. Values are in the notation of the
 * filter language without its quotes: `12.50`, `disputed`, `2024-02-29`, an RFC 3339 timestamp.
 * Of a timestamp a day is the whole day, as the reader's clock has it.
 */
export type Condition =
  | { readonly kind: 'equals'; readonly value: string }
  | { readonly kind: 'oneOf'; readonly values: readonly string[] }
  /** Letter case ignored, no wildcards. */
  | { readonly kind: 'contains'; readonly value: string }
  /** Both ends included; at least one is given. */
  | { readonly kind: 'range'; readonly from?: string; readonly to?: string }
  | { readonly kind: 'missing'; readonly missing: boolean }
  /** The filter says something about the column that none of the above says. */
  | { readonly kind: 'other' };

const nowhere = { start: 0, end: 0 };

/**
 * What a filter says about a column, in terms of its own beside all others. `zone` is the reader's
 * time zone (IANA), UTC by default.
 */
export function conditionOf(
  filter: Expression | undefined,
  column: ColumnDescription,
  zone = 'UTC',
): Condition | undefined {
  const { name } = column;
  const terms = termsOf(filter).filter((term) => mentions(term, name));
  const [first, second] = terms;
  if (first === undefined) return undefined;
  if (terms.length > 2) return { kind: 'other' };
  if (column.type.kind === 'timestamp') {
    const ofMoments = readMoments(terms, column, zone);
    if (ofMoments !== undefined) return ofMoments;
    const read =
      second === undefined && first.kind !== 'between' ? readTerm(first, name) : undefined;
    return read?.kind === 'missing' || read?.kind === 'oneOf' ? read : { kind: 'other' };
  }
  return (second === undefined ? readTerm(first, name) : undefined) ?? { kind: 'other' };
}

/** The filter with all that it says about the column replaced by a condition, or removed. */
export function withCondition(
  filter: Expression | undefined,
  column: ColumnDescription,
  condition: Condition | undefined,
  zone = 'UTC',
): Expression | undefined {
  const terms = termsOf(filter);
  const place = terms.findIndex((term) => mentions(term, column.name));
  const kept = terms.filter((term) => !mentions(term, column.name));
  const written = condition === undefined ? [] : writeTerms(condition, column, zone);
  // A changed condition keeps its place in the sentence.
  kept.splice(place === -1 ? kept.length : place, 0, ...written);
  return and(kept);
}

/** The conditions that a filter joins by AND; none for no filter. */
export function termsOf(filter: Expression | undefined): readonly Expression[] {
  if (filter === undefined) return [];
  return filter.kind === 'and' ? filter.operands : [filter];
}

/** Whether a filter says anything about a column. */
export function isConditioned(filter: Expression | undefined, name: string): boolean {
  return filter !== undefined && mentions(filter, name);
}

function mentions(expression: Expression, name: string): boolean {
  if (expression.kind === 'property') return expression.name === name;
  return childrenOf(expression).some((child) => mentions(child, name));
}

function readTerm(term: Expression, name: string): Condition | undefined {
  switch (term.kind) {
    case 'property':
      return { kind: 'equals', value: 'true' };
    case 'isNull':
      return isProperty(term.operand, name) ? { kind: 'missing', missing: true } : undefined;
    case 'not': {
      const { operand } = term;
      if (isProperty(operand, name)) return { kind: 'equals', value: 'false' };
      if (operand.kind !== 'isNull' || !isProperty(operand.operand, name)) return undefined;
      return { kind: 'missing', missing: false };
    }
    case 'comparison': {
      const value = literalText(term.right);
      if (!isProperty(term.left, name) || value === undefined) return undefined;
      if (term.comparator === '=') return { kind: 'equals', value };
      if (term.comparator === '>=') return { kind: 'range', from: value };
      return term.comparator === '<=' ? { kind: 'range', to: value } : undefined;
    }
    case 'between': {
      const [from, to] = [literalText(term.low), literalText(term.high)];
      if (!isProperty(term.operand, name) || from === undefined || to === undefined)
        return undefined;
      return { kind: 'range', from, to };
    }
    case 'in': {
      const values = term.members.flatMap((member) => literalText(member) ?? []);
      const whole = values.length === term.members.length && isProperty(term.operand, name);
      return whole ? { kind: 'oneOf', values } : undefined;
    }
    case 'like':
      return readContains(term.operand, term.pattern, name);
    default:
      return undefined;
  }
}

/** The filter, and that a column has another value than this one; rows without any stay. */
export function withoutValue(
  filter: Expression | undefined,
  column: ColumnDescription,
  value: string,
  zone = 'UTC',
): Expression | undefined {
  const same = and(writeTerms({ kind: 'equals', value }, column, zone));
  if (same === undefined) return filter;
  const other: Expression = { kind: 'not', operand: same, span: nowhere };
  const missing: Expression = { kind: 'isNull', operand: property(column.name), span: nowhere };
  const term: Expression = column.nullable
    ? { kind: 'or', operands: [other, missing], span: nowhere }
    : other;
  return and([...termsOf(filter), term]);
}

/** `CASEI(name) LIKE CASEI('%heron%')` contains "heron". */
export function readContains(
  operand: Expression,
  pattern: Expression,
  name: string,
): Condition | undefined {
  if (operand.kind !== 'call' || pattern.kind !== 'call') return undefined;
  const [column] = operand.args;
  const [literal] = pattern.args;
  if (operand.name !== 'casei' || pattern.name !== 'casei') return undefined;
  if (column === undefined || !isProperty(column, name) || literal?.kind !== 'text')
    return undefined;
  const inner = /^%((?:[^%_\\]|\\[%_\\])*)%$/s.exec(literal.value)?.[1];
  return inner === undefined
    ? undefined
    : { kind: 'contains', value: inner.replace(/\\([%_\\])/g, '$1') };
}

function writeTerms(
  condition: Condition,
  column: ColumnDescription,
  zone: string,
): readonly Expression[] {
  const ofMoments = column.type.kind === 'timestamp';
  if (ofMoments && (condition.kind === 'equals' || condition.kind === 'range')) {
    return writeMoments(condition, column, zone);
  }
  return [writeTerm(condition, column)].filter((term) => term !== undefined);
}

function writeTerm(condition: Condition, column: ColumnDescription): Expression | undefined {
  const self = property(column.name);
  const value = (one: string): Expression => literal(one, column);
  switch (condition.kind) {
    case 'equals':
      return compare(self, '=', value(condition.value));
    case 'oneOf':
      return { kind: 'in', operand: self, members: condition.values.map(value), span: nowhere };
    case 'contains': {
      const pattern = text(`%${condition.value.replace(/[%_\\]/g, '\\$&')}%`);
      return { kind: 'like', operand: casei(self), pattern: casei(pattern), span: nowhere };
    }
    case 'range': {
      const { from, to } = condition;
      if (from !== undefined && to !== undefined) {
        return { kind: 'between', operand: self, low: value(from), high: value(to), span: nowhere };
      }
      if (from !== undefined) return compare(self, '>=', value(from));
      return to === undefined ? undefined : compare(self, '<=', value(to));
    }
    case 'missing': {
      const missing: Expression = { kind: 'isNull', operand: self, span: nowhere };
      return condition.missing ? missing : { kind: 'not', operand: missing, span: nowhere };
    }
    case 'other':
      return undefined;
    default:
      throw new Error(`unknown condition ${JSON.stringify(condition satisfies never)}`);
  }
}

function casei(operand: Expression): Expression {
  return { kind: 'call', name: 'casei', args: [operand], span: nowhere };
}

/** A value of a column in the notation of conditions, as a literal of its type. */
export function literal(value: string, { type }: ColumnDescription): Expression {
  if (isNumeric(type)) return number(value);
  if (type.kind === 'boolean') return { kind: 'boolean', value: value === 'true', span: nowhere };
  if (type.kind === 'date') return { kind: 'date', value, span: nowhere };
  if (type.kind === 'timestamp') {
    return { kind: value.includes('T') ? 'timestamp' : 'date', value, span: nowhere };
  }
  return text(value);
}

/** A literal in the notation of conditions; undefined for what is none. */
export function literalText(expression: Expression): string | undefined {
  switch (expression.kind) {
    case 'text':
    case 'number':
    case 'date':
    case 'timestamp':
      return expression.value;
    case 'boolean':
      return String(expression.value);
    default:
      return undefined;
  }
}
