/** The service over HTTP: one application, one server around it. */
export { createApplication, type ApplicationOptions } from './application.ts';
export {
  look,
  serve,
  urlOf,
  PortTakenError,
  type ServeOptions,
  type RunningService,
} from './serve.ts';
