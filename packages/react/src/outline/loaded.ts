import { Later } from '../later.ts';

/** Loaded with the first grouping that is shown. */
export const outlines = new Later(() => import('./index.ts'));
