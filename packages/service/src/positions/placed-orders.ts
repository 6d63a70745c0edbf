import { sortSignature, type CheckedQuery } from '@ephoros/core/check';
import { LRUCache } from 'lru-cache';

/** Orders remembered at most, and for how long, in ms. */
const most = 500;
const rememberedFor = 30 * 60_000;

type Sorted = Pick<CheckedQuery, 'table' | 'sort'>;

/**
 * Orders that an index leads but does not give to their end, of which the places were begun to be found. Rows next to
 * a known one are looked for among those first; the first rows, once it takes long to walk to them as they are now.
 */
export class PlacedOrders {
  private readonly known = new LRUCache<string, true>({ max: most, ttl: rememberedFor });

  note(query: Sorted): void {
    this.known.set(nameOf(query), true);
  }

  has(query: Sorted): boolean {
    return this.known.has(nameOf(query));
  }
}

function nameOf({ table, sort }: Sorted): string {
  return `${table.name}\0${sortSignature(sort)}`;
}
