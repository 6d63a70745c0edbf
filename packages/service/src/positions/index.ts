/** Totals and mileposts of results, made once and in the background. */
export { LocalPositionIndex, type PositionIndexOptions } from './local-position-index.ts';
export type {
  Counting,
  KnownTotal,
  IndexedOrder,
  PositionIndex,
  IndexState,
  LongAnswer,
} from './position-index.ts';
export {
  countingOf,
  indexedOrderOf,
  orderKey,
  scan,
  seek,
  writtenTo,
  type PlacedWindow,
  type Way,
} from './seek.ts';
