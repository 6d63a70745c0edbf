import type { Expression, Span } from './expression.ts';
import type { Token } from './tokens.ts';

/** What stands there, without repeating a value. */
export function foundName(token: Token): string {
  if (token.kind === 'text') return 'a text';
  if (token.kind === 'number') return 'a number';
  return token.value.length > 40 ? `${token.value.slice(0, 40)}…` : token.value;
}

/** An end of an interval: text is '..', a date, or else meant as a timestamp. */
export function boundOf(item: Expression): Expression {
  if (item.kind !== 'text') return item;
  const { value, span } = item;
  if (value === '..') return { kind: 'unbounded', span };
  return { kind: /^\d{4}-\d\d-\d\d$/.test(value) ? 'date' : 'timestamp', value, span };
}

/** A place without what else there is of it. */
export function spanOf({ start, end }: Span): Span {
  return { start, end };
}

/** From the beginning of one place to the end of another. */
export function join(first: Span, last: Span): Span {
  return { start: first.start, end: last.end };
}
