/** The whole service: an engine, a server around it, and its workers. */
export { serve, UnprotectedError, type RunningService, type ServeOptions } from './serve.ts';
export { liveTriggers, type NoTriggers } from './live-triggers.ts';
export {
  showAccess,
  type ShownAccess,
  type ShownTable,
  type SupposedCaller,
} from './show-access.ts';
export { checkSetup, type CheckedSetup, type Finding } from './check-setup.ts';
