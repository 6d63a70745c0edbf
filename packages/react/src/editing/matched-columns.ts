import type { Row, Value } from '@ephoros/client';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { FileRow } from './file-rows.ts';
import { valueTyped } from './value-text.ts';

/** For each column of a file the one of the table that its values go into; undefined for none. */
export type Matching = readonly (ColumnDescription | undefined)[];

/** The columns that new rows can have values of. */
export function addable({ columns }: TableDescription): readonly ColumnDescription[] {
  return columns.filter(({ writing }) => writing?.add === true);
}

/** Columns of a file by what they are called: as in the database, or as people read them. */
export function matched(names: readonly string[], table: TableDescription): Matching {
  const left = new Set(addable(table));
  return names.map((name) => {
    const plain = plainName(name);
    const found = [...left].find(
      (column) => plainName(column.name) === plain || plainName(column.label) === plain,
    );
    if (found !== undefined) left.delete(found);
    return found;
  });
}

function plainName(name: string): string {
  return name.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
}

/** A row of a file as the values of a new row; what is missing there is left to the database. */
export function newValues({ cells }: FileRow, matching: Matching, zone: string): Row {
  return Object.fromEntries(
    matching.flatMap((column, index): [string, Value][] => {
      const cell = cells[index] ?? null;
      if (column === undefined || cell === null || cell === '') return [];
      return [[column.name, valueOf(cell, column, zone)]];
    }),
  );
}

function valueOf(cell: unknown, column: ColumnDescription, zone: string): Value {
  if (typeof cell === 'string') return valueTyped(cell, column, zone);
  if (typeof cell === 'boolean') return column.type.kind === 'boolean' ? cell : String(cell);
  // A number of a spreadsheet may be meant as a text, such as a code.
  if (typeof cell === 'number') return valueTyped(String(cell), column, zone);
  return cell as Value;
}
