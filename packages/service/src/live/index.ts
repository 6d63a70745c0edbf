/** What others write, told to those who look at it. */
export { LiveHub, type Watcher } from './hub.ts';
export { triggersOf } from './triggers.ts';
