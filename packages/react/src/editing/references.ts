import { catalogOf } from '@ephoros/client';
import {
  toOne,
  type ColumnDescription,
  type Relationship,
  type TableDescription,
} from '@ephoros/core/schema';
import type { RequestClient } from '../records/request-client.ts';

/** A reference of one column, and the table that it leads to. */
export interface Reference {
  readonly step: Relationship;
  readonly other: TableDescription;
}

/** What a reference of one column leads to; undefined for other columns, and of more columns. */
export function referenceOf(
  { name, shownAs }: ColumnDescription,
  table: TableDescription,
  client: RequestClient | undefined,
): Reference | undefined {
  if (client === undefined || shownAs === undefined) return undefined;
  const step = toOne(table).find(
    (one) =>
      one.columns.length === 1 && one.columns[0] === name && shownAs.startsWith(`${one.name}.`),
  );
  const other = step && catalogOf(client).known(step.table);
  return step && other && { step, other };
}
