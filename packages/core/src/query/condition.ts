import { and, childrenOf, property, type Expression } from '../expression/index.ts';
import type { ColumnDescription } from '../schema/index.ts';
import { readMoments } from './moments.ts';
import { readPlain, writeColumnTerm, type ColumnTerm, type Operator } from './operator.ts';

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
 * What a filter says about a column, in terms of its own next to all others. `zone` is the reader's
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
      second === undefined && first.kind !== 'between' ? readTerm(first, column) : undefined;
    return read?.kind === 'missing' || read?.kind === 'oneOf' ? read : { kind: 'other' };
  }
  return (second === undefined ? readTerm(first, column) : undefined) ?? { kind: 'other' };
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
  const remaining = terms.filter((term) => !mentions(term, column.name));
  const written = condition === undefined ? [] : writeTerms(condition, column, zone);
  // A changed condition keeps its place in the sentence.
  remaining.splice(place === -1 ? remaining.length : place, 0, ...written);
  return and(remaining);
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

function writeTerms(
  condition: Condition,
  column: ColumnDescription,
  zone: string,
): readonly Expression[] {
  const term = columnTermOf(condition, column.name);
  return termsOf(term && writeColumnTerm(term, column, zone));
}

function readTerm(term: Expression, column: ColumnDescription): Condition | undefined {
  const read = readPlain(term, column);
  return read && conditionOfTerm(read);
}

/** A condition as what is stated about a column; undefined for what no condition of a header says. */
function columnTermOf(condition: Condition, column: string): ColumnTerm | undefined {
  const term = (operator: Operator, ...values: readonly string[]): ColumnTerm => ({
    column,
    operator,
    values,
  });
  switch (condition.kind) {
    case 'equals':
      return term('equals', condition.value);
    case 'oneOf':
      return term('oneOf', ...condition.values);
    case 'contains':
      return term('contains', condition.value);
    case 'range': {
      const { from, to } = condition;
      if (from !== undefined && to !== undefined) return term('between', from, to);
      if (from !== undefined) return term('atLeast', from);
      return to === undefined ? undefined : term('atMost', to);
    }
    case 'missing':
      return term(condition.missing ? 'missing' : 'there');
    case 'other':
      return undefined;
    default:
      throw new Error(`unknown condition ${JSON.stringify(condition satisfies never)}`);
  }
}

/** The other way round. */
function conditionOfTerm({ operator, values }: ColumnTerm): Condition | undefined {
  const [value = '', to = ''] = values;
  switch (operator) {
    case 'equals':
    case 'contains':
      return { kind: operator, value };
    case 'oneOf':
      return { kind: operator, values };
    case 'between':
      return { kind: 'range', from: value, to };
    case 'atLeast':
      return { kind: 'range', from: value };
    case 'atMost':
      return { kind: 'range', to: value };
    case 'missing':
    case 'there':
      return { kind: 'missing', missing: operator === 'missing' };
    default:
      return undefined;
  }
}
