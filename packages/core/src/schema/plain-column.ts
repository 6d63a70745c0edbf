import { aggregatesOf } from './aggregate.ts';
import { encodingOf, isComparable, isSortable, type ColumnType } from './column-type.ts';
import type { ColumnDescription } from './description.ts';
import { labelOf } from './label.ts';

/**
 * A column of which nothing is known but its name and type: it may be null, no index leads with
 * it, and all is allowed that its type allows. `more` says what is known beyond.
 */
export function plainColumn(
  name: string,
  type: ColumnType,
  more: Partial<ColumnDescription> = {},
): ColumnDescription {
  return {
    name,
    label: labelOf(name),
    type,
    encoding: encodingOf(type),
    nullable: true,
    sortable: isSortable(type),
    filterable: true,
    indexed: false,
    shown: true,
    groupable: isComparable(type),
    aggregates: aggregatesOf(type),
    ...more,
  };
}
