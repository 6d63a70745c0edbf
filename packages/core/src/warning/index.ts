/** Warnings to developers about wrong use, each reported once. */
export { Warnings } from './warnings.ts';
