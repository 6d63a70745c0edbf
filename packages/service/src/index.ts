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
  look,
  serve,
  urlOf,
  PortTakenError,
  type ApplicationOptions,
  type RunningService,
  type ServeOptions,
} from './http/index.ts';
export { LocalSurveyor, type Surveyor, type SurveyorOptions } from './survey/index.ts';
export { leadCrew, membership, WorkerError, type Crew, type CrewOptions } from './workers/index.ts';
