/** The headless client: no React, no DOM; works in browsers and in Node. */
export { createClient, type Client, type KeyValue } from './client.ts';
export type { ValuesOptions } from './query-client.ts';
export {
  fetchText,
  type ClientOptions,
  type OnProgress,
  type RequestHeaders,
  type TextRequest,
} from './transport.ts';
export {
  isAdvised,
  isExplained,
  RequestLog,
  type RequestExplanation,
  type LoggedRequest,
  type RequestAbout,
  type RequestLogOptions,
  type RequestStage,
} from './request-log.ts';
export { ServiceError, type ServiceErrorKind } from './service-error.ts';
export type {
  AdviceAnswer,
  AggregatesAnswer,
  GroupLine,
  GroupsAnswer,
  MilepostsAnswer,
  Progress,
  Row,
  RowsAnswer,
  SelectionAnswer,
  TableList,
  Value,
  ValuesAnswer,
  Window,
  WindowAnswer,
} from '@ephoros/core/answer';
export { unanswered, type ScanProgress, type RowSource, type SourceState } from './row-source.ts';
export { countExactly } from './total.ts';
export { fetchWhole } from './whole-window.ts';
export { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';
export {
  rowsFrom,
  type GivenWindow,
  type RowsFromOptions,
  type WantedWindow,
} from './rows-from.ts';
export { date, where, type ConditionBuilder, type Literal } from '@ephoros/core/expression';
export type { EachRowOptions } from './each-row.ts';
export {
  chosenQuery,
  keyOfRow,
  nothingChosen,
  selectedKeys,
  type QueryableRows,
  type ChosenRows,
} from './chosen-rows.ts';
export type { ChangesClient, SaveOptions } from './changes.ts';
export type { SavedViewChange, SavedViewsQuery, NewSavedView, ViewsClient } from './views.ts';
export type { ViewAnswer, ViewsAnswer } from '@ephoros/core/view';
export type {
  Change,
  ChangeOutcome,
  ChangesAnswer,
  HistoryAnswer,
  HistoryEntry,
} from '@ephoros/core/change';
export { queryableRows, type SelectionsClient } from './selections.ts';
export { Catalog, catalogOf } from './catalog.ts';
export { describeColumns } from './described-columns.ts';
export { filterText, joinFilters, type QueryBuilder } from './query-builder.ts';
export type {
  AggregatesOf,
  AnyTable,
  AnyTables,
  ColumnName,
  ColumnsOf,
  GroupsOf,
  NameOf,
  SomeOf,
  TableSet,
  TableTypes,
  TermValue,
  ValuesOf,
} from './table-types.ts';
export {
  printParameters,
  type PlainCondition,
  type PlainValue,
  type WrittenQuery,
} from '@ephoros/core/query';
export { outlineSource } from './outline-source.ts';
export type { OutlineLine, OutlineSource, OutlineSourceOptions } from './outline.ts';
