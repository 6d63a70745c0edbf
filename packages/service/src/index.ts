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
  type Access,
  type RowRule,
  type RuleValue,
  type TableAccess,
} from './access/index.ts';
export { Refused } from './question/index.ts';
export { Database, Failure, type DatabaseOptions, type FailureKind } from './run/index.ts';
export {
  openTables,
  type OpenTable,
  type OpenWindow,
  type Tables,
  type TablesOptions,
} from './tables/index.ts';
export {
  createApplication,
  createLogger,
  refuseUnprotected,
  type LogLevel,
  createRouter,
  look,
  serve,
  urlOf,
  PortTakenError,
  UnprotectedError,
  type AnsweringOptions,
  type ApplicationOptions,
  type RouterOptions,
  type TablesRouter,
  type RunningService,
  type ServeOptions,
} from './http/index.ts';
export { LocalSurveyor, type Surveyor, type SurveyorOptions } from './survey/index.ts';
export { leadCrew, membership, WorkerError, type Crew, type CrewOptions } from './workers/index.ts';
