/** What is done with cells: their menu, copies of them. Loaded when it is first wanted. */
export { CellMenu, type MenuPlace } from './cell-menu.tsx';
export { CopyNote } from './copy-note.tsx';
export { copyCells, type CopiedRows } from '../copy/copy-cells.ts';
