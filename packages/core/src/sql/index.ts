/** CheckedQuery → SQL: frozen text and its bound parameters. Compiling does no I/O. */
export { compileRows, compileRow, type Relation, type Statement } from './rows.ts';
export { compileCount, compileEstimate } from './count.ts';
