/** Hooks and a table component over row sources. */
export { useSource } from './use-source.ts';
export { RecordTable, type RecordTableProps, type TableHandle } from './table/record-table.tsx';
export type { TableColumn, SortMark } from './table/column.ts';
export { formatText, formatValue, type FormattedValue, type Reader } from './format/value.ts';
export { Cell } from './table/cell.tsx';
export type { RulerContent } from './ruler/ruler.tsx';
export { useMileposts } from './ruler/use-mileposts.ts';
