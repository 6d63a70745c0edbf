import type { ColumnType } from './column-type.ts';
import type { ColumnFormat } from './description.ts';

/** Whole numbers that name rows are written as names are, where nothing else is stated. */
export function namedBy<
  Column extends {
    readonly name: string;
    readonly type: ColumnType;
    readonly format?: ColumnFormat;
  },
>(column: Column, identifiers: ReadonlySet<string>): Column {
  const { name, type, format } = column;
  if (format !== undefined || type.kind !== 'integer' || !identifiers.has(name)) return column;
  return { ...column, format: { kind: 'identifier' } };
}
