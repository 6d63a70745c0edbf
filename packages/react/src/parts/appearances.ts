import { Later } from '../later.ts';

/** What is shown of answers that take long: loaded with the first of them. */
export const looks = new Later(() => import('./scan-line.tsx'));
