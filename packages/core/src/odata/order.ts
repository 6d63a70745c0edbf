import type { SortTerm } from '../query/index.ts';
import type { Tables } from '../schema/index.ts';
import type { Entity } from './model.ts';
import type { Segment } from './node.ts';
import { notImplemented, TokenReader } from './reader.ts';
import { resolve } from './resolve.ts';

/** A term of `$orderby` before its path is looked up. */
export interface OrderTerm {
  readonly segments: readonly Segment[];
  readonly descending: boolean;
}

/** `$orderby`: paths by commas, each with `asc` (default) or `desc` behind it. @throws Refusal */
export function parseOrder(text: string): readonly OrderTerm[] {
  const reader = new TokenReader(text);
  const terms: OrderTerm[] = [];
  do {
    const segments: Segment[] = [];
    do {
      const { value, span } = reader.word('the name of a property');
      if (value !== '$it') segments.push({ name: value, span });
      if (value === '$count' || reader.is('('))
        throw notImplemented('an order by an expression', span);
    } while (reader.take('/'));
    const descending = reader.take('desc');
    if (!descending) reader.take('asc');
    const { kind, span } = reader.peek();
    if (kind !== 'end' && !reader.is(',')) throw notImplemented('an order by an expression', span);
    terms.push({ segments, descending });
  } while (reader.take(','));
  reader.end();
  return terms;
}

/** The sort that an order means: nulls before all values, so that they are last downwards (Protocol 4.01, 11.2.6.2). */
export function sortOf(
  terms: readonly OrderTerm[],
  entity: Entity,
  tables: Tables,
): readonly SortTerm[] {
  return terms.map(({ segments, descending }) => {
    const found = resolve(segments, entity, tables);
    const span = { start: segments[0]?.span.start ?? 0, end: segments.at(-1)?.span.end ?? 0 };
    if (found.kind === 'navigation') throw notImplemented('an order by a row', span);
    return {
      column: { name: found.name, span },
      descending,
      nulls: descending ? 'last' : 'first',
    };
  });
}
