'use client';

/** Hooks and a table component over row sources. */
export { TableView, type TableViewProps } from './view/table-view.tsx';
export {
  TableParts,
  type TableOptions,
  type TablePartsProps,
  type TableViewHandle,
} from './view/table-parts.tsx';
export { Foot, Levels, Sentence, Tools } from './view/parts.tsx';
export { Rows } from './view/rows.tsx';
export { LiveRows, type Watch } from './live/live-rows.tsx';
export type { ColumnDefinition } from './view/column-definition.ts';
export {
  useRecords,
  type Header,
  type Records,
  type RecordsOptions,
} from './records/use-records.ts';
export type { RequestClient, QueryOptions, CachedResults } from './records/request-client.ts';
export type { Pager } from './records/pager.ts';
export type { Selection, SelectionOptions } from './records/use-selection.ts';
export {
  useView,
  type ChangeView,
  type ViewChangeHandler,
  type ViewOptions,
} from './state/use-view.ts';
export { listIn, putFirst } from './state/stored-list.ts';
export { browserStores, browserStore, useStored } from './state/stores.ts';
export { useStoredView, type StoredView, type StoredViewOptions } from './state/use-stored-view.ts';
export { useStoredSelection, type StoredSelection } from './state/use-stored-selection.ts';
export { useAddressText, useAddressView, type AddressView } from './state/use-address-view.ts';
export { useTextView } from './state/use-text-view.ts';
export { useInitialView, type InitialView } from './state/use-initial-view.ts';
export type { Density, OpenGroup, Reading, View, ViewChange, ViewPlace } from '@ephoros/core/view';
export type { Condition } from '@ephoros/core/query';
export type { Problem } from '@ephoros/core/problem';
export type {
  ColumnDescription,
  ColumnFormat,
  ColumnType,
  TableDescription,
} from '@ephoros/core/schema';
export { sentence, type Phrase, type SentenceOptions } from './sentence/sentence.ts';
export { useSource } from './use-source.ts';
export { useAnswer, type Answer } from './use-answer.ts';
export { RecordTable } from './table/record-table.tsx';
export type { RecordTableProps, TableHandle } from './table/record-table-props.ts';
export type { TableColumn, SortMark } from './table/column.ts';
export { formatText, formatValue, type FormattedValue, type Reader } from './format/value.ts';
export { Cell } from './table/cell.tsx';
export { Ruler, type RulerContent, type RulerPlace, type RulerProps } from './ruler/ruler.tsx';
export { rulerTicks, useRuler } from './ruler/use-ruler.ts';
export { quoted, shellText } from './request-log/code-text.ts';
export { Boundary } from './parts/boundary.tsx';
export type { ChosenAbout, TableAction } from './parts/selection-line.tsx';
export { RowCard, type RowCardProps } from './card/row-card.tsx';
export type { OpenedRow } from './card/opened-row.ts';
export type { AddressOf, TablePlace } from './card/address-of.ts';
export { FailureNote, type Instead } from './parts/notes.tsx';
export type { PressedCell } from './view/sheet-context.ts';
export { english } from './messages/english.ts';
export { arabic } from './messages/arabic.ts';
export { MessagesContext } from './messages/use-messages.ts';
export type { Messages } from './messages/messages.ts';
