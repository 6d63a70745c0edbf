'use client';

/** Hooks and a table component over row sources. */
export { useSource } from './use-source.ts';
export { RecordTable, type RecordTableProps, type TableHandle } from './table/record-table.tsx';
export type { TableColumn, SortMark } from './table/column.ts';
export { formatText, formatValue, type FormattedValue, type Reader } from './format/value.ts';
export { Cell } from './table/cell.tsx';
export type { RulerContent } from './ruler/ruler.tsx';
export { rulerTicks, useRuler } from './ruler/use-ruler.ts';
export { isEndAligned, widthOf } from './format/layout.ts';
export { useClosedSource } from './use-closed-source.ts';
export { Boundary } from './view/boundary.tsx';
export { TableView, type TableViewProps } from './view/table-view.tsx';
export type { ColumnDefinition } from './view/column-definition.ts';
export {
  useRecords,
  type AskedClient,
  type Header,
  type Kept,
  type Pager,
  type Records,
  type RecordsOptions,
} from './records/use-records.ts';
export type { Selection } from './records/use-selection.ts';
export { type TableState } from './state/table-state.ts';
export { type ChangeState, type StateOptions } from './state/use-table-state.ts';
export { sentence, type Phrase, type SentenceOptions } from './sentence/sentence.ts';
export { english } from './messages/english.ts';
export { arabic } from './messages/arabic.ts';
export { MessagesContext } from './messages/use-messages.ts';
export type { Messages } from './messages/messages.ts';
export { VisibleRows } from './table/visible-rows.ts';
