/** The headless client: no React, no DOM; works in browsers and in Node. */
export { createClient, type Client, type ClientOptions, type ValuesOptions } from './client.ts';
export { ServiceError, type ServiceErrorKind } from './service-error.ts';
export type {
  AggregatesAnswer,
  GroupLine,
  GroupsAnswer,
  MilepostsAnswer,
  Row,
  RowsAnswer,
  TableList,
  Value,
  ValuesAnswer,
  Window,
  WindowAnswer,
} from './answers.ts';
export type { RowSource, SourceState } from './row-source.ts';
export { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';
export { where, type ConditionBuilder } from '@ephoros/core/expression';
export { outlineSource } from './outline-source.ts';
export type { OpenGroup, OutlineLine, OutlineSource, OutlineSourceOptions } from './outline.ts';
