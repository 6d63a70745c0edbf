/** What changes a view: loaded when the first of it is opened. */
export { Sheet } from './sheet.tsx';
export { AggregateOffer, ConditionOffer, GroupOffer, SortOffer } from './offers.tsx';
export { ChartEditor } from './chart-editor.tsx';
export { ConditionBuilder } from './condition-builder.tsx';
export { ColumnSheet } from './column-sheet.tsx';
export { ColumnsEditor } from './columns-editor.tsx';
export { AppearanceEditor } from './appearance-editor.tsx';
export { PartEditor } from './part-editor.tsx';
export { ReadingEditor } from './reading-editor.tsx';
export { readFilter } from './read-filter.ts';
export { KeySheet } from './key-sheet.tsx';
