/** Descriptions: what a table reports about itself. */
export {
  typeName,
  isTextual,
  isNumeric,
  isMeasured,
  isSortable,
  hasEquality,
  isComparable,
  ignoresCase,
  blankPadded,
  encodingOf,
  type ColumnType,
  type Encoding,
} from './column-type.ts';
export type {
  ColumnDescription,
  ColumnWriting,
  TableWriting,
  ColumnFormat,
  ValueLabels,
  ResultColumn,
  Relationship,
  TableDescription,
  TableSummary,
  SortDefault,
} from './description.ts';
export {
  aggregateArguments,
  aggregateNames,
  aggregatesOf,
  aggregatesOfIdentifier,
  isAggregateName,
  type AggregateName,
} from './aggregate.ts';
export { namedBy } from './identifier.ts';
export { labelOf, spoken } from './label.ts';
export {
  columnsAround,
  findColumn,
  toldApart,
  toOne,
  type FoundColumn,
  type NotFound,
  type Tables,
} from './related.ts';
export { columnsToChoose, shownNames, withReferences } from './reference.ts';
export { sectionsOf, type Section, type SectionKind } from './sections.ts';
export { plainColumn } from './plain-column.ts';
export { valueLabelOf } from './value-label.ts';
export { keyParts, parseKey, printKey } from './row-key.ts';
export { arrayItem, arrayText } from './array-text.ts';
export { harmlessText } from './harmless.ts';
export { mostPaintRules, tones, type Tone, type WrittenPaintRule } from './paint.ts';
