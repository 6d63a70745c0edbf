/** Paths of a service, as addresses name where to go on. */
export { ownPath } from './own-path.ts';
