/** The service over HTTP: one application, one server around it. */
export { createApplication, type ApplicationOptions } from './application.ts';
export { serve, PortTakenError, type ServeOptions, type RunningService } from './serve.ts';
