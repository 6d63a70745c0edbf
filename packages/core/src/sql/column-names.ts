import type { CheckedColumn } from '../check/index.ts';
import type { SQL } from './fragment.ts';

/** What columns are called in a statement. */
export interface ColumnNames {
  readonly column: (column: CheckedColumn) => SQL;
}
