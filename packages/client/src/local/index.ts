/** Rows at hand: local tables, and small results of a service that are stored whole. */
export { createLocalClient, type LocalData, type LocalTableSource } from './local-client.ts';
export {
  cacheSmallResults,
  type CachingClient,
  type CachingOptions,
  type CachedState,
} from './small-results.ts';
export type { LocalColumn, LocalTableOptions } from './table.ts';
export {
  DataError,
  isEmptyLine,
  lineCount,
  rowsOfCsv,
  rowsOfNdjson,
  type GivenRows,
  type HtmlTable,
} from './texts.ts';
