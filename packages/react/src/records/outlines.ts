/** Loaded with the first grouping that is shown. */
export { outlineSource } from '@ephoros/client';
