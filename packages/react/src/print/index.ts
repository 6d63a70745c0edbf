/** Printing the whole result of a view: loaded when that is first wanted. */
export { PrintSheet } from './print-sheet.tsx';
