/** The headless client: no React, no DOM; works in browsers and in Node. */
export { createClient, type Client, type ClientOptions } from './client.ts';
export { ServiceError, type ServiceErrorKind } from './service-error.ts';
export type { MilepostsAnswer, Row, RowsAnswer, TableList, Value, Window } from './answers.ts';
export type { RowSource, SourceState } from './row-source.ts';
export { remoteRows, type RemoteRows, type RemoteRowsOptions } from './remote-rows.ts';
export { where, type ConditionBuilder } from '@ephoros/core/expression';
