/** Descriptions: what a table tells about itself. */
export {
  typeName,
  isTextual,
  isNumeric,
  isMeasured,
  isSortable,
  isComparable,
  ignoresCase,
  blankPadded,
  encodingOf,
  type ColumnType,
  type Encoding,
} from './column-type.ts';
export type {
  ColumnDescription,
  ColumnFormat,
  ResultColumn,
  Relationship,
  TableDescription,
  TableSummary,
  SortDefault,
} from './description.ts';
export {
  aggregateNames,
  aggregatesOf,
  aggregatesOfIdentifier,
  isAggregateName,
  type AggregateName,
} from './aggregate.ts';
export { namedBy } from './identifier.ts';
export { labelOf } from './label.ts';
export { plainColumn } from './plain-column.ts';
