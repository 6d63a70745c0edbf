/** Moments to the microsecond, as PostgreSQL keeps them. */
export { isForever, microseconds, offsetOf, printMoment } from './moment.ts';
export { momentsBetween } from './edges.ts';
export { dayAfter, momentAt, wallAt, zoneOffset } from './zone.ts';
