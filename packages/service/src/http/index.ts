/** The service over HTTP: one application, one server around it. */
export { createLogger, type LogLevel } from './logger.ts';
export { listen, urlOf, PortTakenError, type ListenOptions } from './listen.ts';
export {
  createRouter,
  type AnsweringOptions,
  type RouterOptions,
  type TablesRouter,
} from './router.ts';
export { accessBySignIn, addressBehind } from './signed-in.ts';
export { auditIn, callerOrAddress, countingBy } from './watching-callers.ts';
export { localRateCounters, type Left, type RateCounters } from './rates.ts';
