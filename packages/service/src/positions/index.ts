/** Totals and mileposts of results, made once and in the background. */
export type { PositionIndexOptions } from './index-options.ts';
export { LocalPositionIndex } from './local-position-index.ts';
export type {
  Counting,
  KnownTotal,
  IndexedOrder,
  GroupPlace,
  PlacedKeys,
  PositionQuery,
  PositionIndex,
  IndexState,
  LongAnswer,
} from './position-index.ts';
export { noteGroup } from './groups.ts';
export { countingOf, indexedOrderOf, orderKey, writtenMeanwhile, writtenTo } from './orders.ts';
export { PlacedOrders } from './placed-orders.ts';
export { beginPlaces, scan, seek, type Way } from './seek.ts';
