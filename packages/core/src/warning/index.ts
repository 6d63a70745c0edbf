/** Warnings to developers about wrong use, each told once. */
export { Warnings } from './warnings.ts';
