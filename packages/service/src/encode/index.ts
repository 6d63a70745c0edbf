/** PostgreSQL's text of values → JSON text, without loss. */
export { rowsEncoder, rowEncoder } from './rows.ts';
export { valueEncoder } from './value.ts';
export { expectTypes } from './types.ts';
