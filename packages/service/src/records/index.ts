/** What the service itself keeps: Drizzle tables in the schema `ephoros`. */
export { Records, RecordsError, type RecordsSource } from './records.ts';
export { Selections, type KeyChange } from './selections.ts';
export { mostViews, Views, type ViewRecord, type Unkept } from './views.ts';
export {
  ChangeLog,
  KeyTaken,
  type HistoryLine,
  type KeyBegun,
  type LoggedChange,
  type LoggedEntry,
  type LoggedSet,
} from './change-log.ts';
export {
  CodeUsed,
  isInForce,
  isOwnToken,
  Tokens,
  type StoredToken,
  type NewToken,
} from './tokens.ts';
export { Attempts } from './attempts.ts';
export { SignIns, type StoredSignIn } from './sign-ins.ts';
