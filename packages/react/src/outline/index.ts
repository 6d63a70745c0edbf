/** What groups need, and nothing else does. */
export { outlineSource } from '@ephoros/client';
export { outlineColumns } from './outline-columns.tsx';
