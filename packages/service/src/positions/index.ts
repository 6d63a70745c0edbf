/** Totals and mileposts of results, made once and in the background. */
export { LocalPositionIndex, type PositionIndexOptions } from './local-position-index.ts';
export type {
  Counting,
  KnownTotal,
  IndexedOrder,
  PositionIndex,
  IndexState,
} from './position-index.ts';
export { countingOf, seek, indexedOrderOf, orderKey, writtenTo, type Way } from './seek.ts';
