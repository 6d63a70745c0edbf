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
export { Database, Failure, type DatabaseOptions, type FailureKind } from './run/index.ts';
export {
  createApplication,
  serve,
  PortTakenError,
  type ApplicationOptions,
  type RunningService,
  type ServeOptions,
} from './http/index.ts';
