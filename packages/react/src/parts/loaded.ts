import { Later } from '../later.ts';

/** All that changes a view. */
export const editors = new Later(() => import('../editors/index.ts'));
export const boxes = new Later(() => import('../editors/box.tsx'));
