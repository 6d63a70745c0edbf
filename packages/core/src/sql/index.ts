/** CheckedQuery → SQL: frozen text and its bound parameters. Compiling does no I/O. */
export { compileRows, compileRow, cursorColumns } from './rows.ts';
export { compileCount, compileEstimate } from './count.ts';
export type { Relations } from './scope.ts';
export type { Relation, Statement } from './statement.ts';
export { pathsOf, type Paths } from './paths.ts';
