/** CheckedQuery on an array of rows: the same meaning without a database. */
export { queryRows, type MemoryAnswer, type MemoryOptions, type MemoryRow } from './rows.ts';
export { byCodePoint, byCollator, type TextOrder } from './text-order.ts';
