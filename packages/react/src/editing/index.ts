/** What rows are changed by: loaded with the first table that can be edited. */
export { CellActions, editedNow, type Edited } from './cell-actions.ts';
export { referenceOf } from './references.ts';
export { DraftLine } from './draft-line.tsx';
export { EditedCell } from './edited-cell.tsx';
export { marksOf } from './marks.ts';
