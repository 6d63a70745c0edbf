/** CheckedQuery on an array of rows: the same meaning without a database. */
export {
  arrangeRows,
  queryRows,
  type MemoryAnswer,
  type MemoryOptions,
  type MemoryRow,
} from './rows.ts';
export { byCodePoint, byCollator, unicodeOrder, type TextOrder } from './text-order.ts';
export { Evaluator } from './evaluate.ts';
export { groupRows, type MemoryGroup, type MemoryGroups } from './groups.ts';
export { histogramOf, type MemoryBin } from './histogram.ts';
