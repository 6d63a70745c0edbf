import { Warnings } from '@ephoros/core/warning';

/** What the hooks and the table find wrong in how they are used; each reported once, in the console. */
export const warnings = new Warnings((message) => console.warn(`Ephoros: ${message}`));
