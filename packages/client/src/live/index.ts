/** What others write to rows that somebody looks at. */
export { watchRows, type RowWatcher, type WatchedRows } from './watch-rows.ts';
export type { LiveChanges, LiveGrade } from '@ephoros/core/answer';
