import type { Row } from '@ephoros/client';
import type { TableDescription } from '@ephoros/core/schema';

/** A row that is read on its own. */
export interface OpenedRow {
  readonly table: TableDescription;
  /** As its address has it. */
  readonly key: string;
  /** All its columns, by name; `lock.id` and `lock.name` of the rows that it refers to. */
  readonly row: Row;
  readonly close: (() => void) | undefined;
  /** The row before and behind it in a table's order; undefined where there is none. */
  readonly previous: (() => void) | undefined;
  readonly next: (() => void) | undefined;
}
