/** The whole service: an engine, a server around it, and its workers. */
export { serve, UnprotectedError, type RunningService, type ServeOptions } from './serve.ts';
export { liveSetup, type LiveSetup, type NoLiveSetup } from './live-setup.ts';
export {
  showAccess,
  type ShownAccess,
  type ShownTable,
  type SupposedCaller,
} from './show-access.ts';
export { checkSetup } from './check-setup.ts';
export type { CheckedSetup, Finding } from './checked-setup.ts';
