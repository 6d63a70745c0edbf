/** The service: query parameters in, bounded SQL on PostgreSQL, rows out. */
export {
  ConfigurationError,
  configurationJsonSchema,
  noConfiguration,
  parseConfiguration,
  readConfiguration,
  type Configuration,
  type ConfigurationFile,
} from './config/index.ts';
export {
  AccessError,
  rule,
  type Abilities,
  type Access,
  type CallerDetails,
  type ChangeAccess,
  type RowRule,
  type RuleValue,
  type TableAccess,
  type TablePart,
} from './access/index.ts';
export { Refused } from './query/index.ts';
export { Failure, type FailureKind } from './run/index.ts';
export {
  Engine,
  openTables,
  type EngineOptions,
  type OpenTable,
  type Tables,
} from './engine/index.ts';
export {
  createLogger,
  createRouter,
  PortTakenError,
  type AnsweringOptions,
  type LogLevel,
  type RouterOptions,
  type TablesRouter,
} from './http/index.ts';
export { ownHeaders } from './sign-in/index.ts';
export type { ChangesSource } from './changes/index.ts';
export {
  Records,
  RecordsError,
  SignIns,
  Tokens,
  type StoredToken,
  type NewToken,
  type RecordsSource,
} from './records/index.ts';
export {
  checkSetup,
  liveSetup,
  serve,
  showAccess,
  UnprotectedError,
  type CheckedSetup,
  type Finding,
  type LiveSetup,
  type NoLiveSetup,
  type RunningService,
  type ServeOptions,
  type ShownAccess,
  type ShownTable,
  type SupposedCaller,
} from './serve/index.ts';
export { WorkerError } from './workers/index.ts';
