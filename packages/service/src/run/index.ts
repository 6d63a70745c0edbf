/** Statements on the database: gate, pool, time limit, cancelling, what failures mean. */
export {
  Database,
  type Answer,
  type QueryOptions,
  type DatabaseBounds,
  type DatabaseOptions,
} from './database.ts';
export { connectionOf } from './connection-string.ts';
export { Failure, type FailureKind } from './failure.ts';
export { NotReady } from './not-ready.ts';
export { WaitBudget } from './wait-budget.ts';
export { connectionShares, usualLongLimit } from './shares.ts';
export { PreparedStatements } from './prepared-statements.ts';
export { inTime } from './in-time.ts';
export { CachedAnswers, type CachedAnswer } from './cached-answers.ts';
export { ResultCache } from './result-cache.ts';
export { isBehindPooler, notationFor, Sessions, within, type Pooler } from './sessions.ts';
export { StatementWatch } from './statement-watch.ts';
export { statementName } from './statement-name.ts';
export { replicaContexts, parsePosition, Servers, type ReplicaContext } from './servers.ts';
