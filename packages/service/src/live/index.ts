/** What others write, reported to those who look at it. */
export { LiveHub, type Watcher } from './hub.ts';
