/** Statements on the database: pool, time limit, cancelling, what failures mean. */
export { Database, type DatabaseOptions, type Answer } from './database.ts';
export { Failure, type FailureKind } from './failure.ts';
