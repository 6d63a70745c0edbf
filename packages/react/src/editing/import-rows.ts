import type { Client, Row, Value } from '@ephoros/client';
import { checkChanges } from '@ephoros/core/change';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { FileRow } from './import-file.ts';
import { findKeys, type FoundKeys, type NamedReference } from './import-references.ts';
import type { Matching } from './matched-columns.ts';
import { valueTyped } from './value-text.ts';

/** Texts that were typed in place of those of the file: by row, counted from 0, and column. */
export type Corrections = ReadonlyMap<number, Readonly<Record<string, string>>>;

/** What is wrong with a row, counted from 0. */
export interface ImportProblem {
  readonly row: number;
  readonly column: string | undefined;
  readonly message: string;
  /** The row refers to none yet: added as it is, it would lose the name that the file has. */
  readonly isUnresolved?: boolean;
}

/** New rows as they will be saved, and what is wrong with them. */
export interface Imported {
  readonly rows: readonly Row[];
  readonly problems: readonly ImportProblem[];
}

/** How texts of a file become values. */
export interface Reading {
  readonly table: TableDescription;
  readonly matching: Matching;
  readonly references: ReadonlyMap<string, NamedReference>;
  /** Keys that texts mean, by the column that refers to them. */
  readonly keys: ReadonlyMap<string, FoundKeys>;
  readonly zone: string;
  readonly messages: EditingMessages;
}

/** What stands in the cells of a row, by columns of the table; a blank cell is left to the database. */
export function cellsOf(
  { cells }: FileRow,
  matching: Matching,
  corrected: Readonly<Record<string, string>> = {},
): ReadonlyMap<ColumnDescription, unknown> {
  const found = new Map<ColumnDescription, unknown>();
  for (const [index, column] of matching.entries()) {
    if (column !== undefined) found.set(column, cells[index] ?? null);
  }
  for (const column of [...found.keys()]) {
    const text = corrected[column.name];
    if (text !== undefined) found.set(column, text);
  }
  for (const [column, cell] of found) if (cell === null || cell === '') found.delete(column);
  return found;
}

/** Reads rows as new ones of a table; `first` is the number of the first of them. */
export function importedRows(
  rows: readonly FileRow[],
  corrections: Corrections,
  reading: Reading,
  first = 0,
): Imported {
  const { table } = reading;
  const problems: ImportProblem[] = [];
  const read = rows.map((row, index): Row => {
    const cells = cellsOf(row, reading.matching, corrections.get(first + index));
    return Object.fromEntries(
      [...cells].flatMap(([column, cell]): [string, Value][] => {
        const value = valueOf(cell, column, reading);
        if (!(value instanceof Unknown)) return [[column.name, value]];
        const place = { row: first + index, column: column.name };
        problems.push({ ...place, message: value.message, isUnresolved: true });
        return [];
      }),
    );
  });
  const unknown = new Set(problems.map(({ row, column }) => `${row} ${column ?? ''}`));
  const changes = read.map((values) => ({ kind: 'add' as const, values }));
  for (const { change = 0, column, message } of checkChanges(changes, {
    table,
    tables: () => undefined,
  }).problems) {
    // A reference that leads to no row has no value yet.
    if (unknown.has(`${first + change} ${column ?? ''}`)) continue;
    problems.push({ row: first + change, column, message });
  }
  return { rows: read, problems: problems.toSorted((one, other) => one.row - other.row) };
}

/** Rows that were read before, with those read again that were corrected since. */
export function withCorrections(
  file: readonly FileRow[],
  before: Imported,
  corrections: Corrections,
  reading: Reading,
): Imported {
  if (corrections.size === 0) return before;
  const rows = [...before.rows];
  const problems = before.problems.filter(({ row }) => !corrections.has(row));
  for (const index of corrections.keys()) {
    const row = file[index];
    if (row === undefined) continue;
    const read = importedRows([row], corrections, reading, index);
    rows[index] = read.rows[0] ?? {};
    problems.push(...read.problems);
  }
  return { rows, problems: problems.toSorted((one, other) => one.row - other.row) };
}

/** Why a text is no value. */
class Unknown {
  readonly message: string;

  constructor(message: string) {
    this.message = message;
  }
}

function valueOf(cell: unknown, column: ColumnDescription, reading: Reading): Value | Unknown {
  const { references, keys, zone, messages } = reading;
  const reference = references.get(column.name);
  if (reference !== undefined && isText(cell)) {
    const text = String(cell).trim();
    const [key, ...others] = keys.get(column.name)?.get(text) ?? [];
    const { name: table } = reference.other;
    if (key === undefined) return new Unknown(messages.noRowNamed(text, table));
    return others.length === 0 ? key : new Unknown(messages.severalNamed(text, table));
  }
  if (isText(cell)) return valueTyped(String(cell), column, zone);
  if (typeof cell === 'boolean') return column.type.kind === 'boolean' ? cell : String(cell);
  return cell as Value;
}

/** A number of a spreadsheet may be meant as a text, such as a code. */
function isText(cell: unknown): cell is string | number {
  return typeof cell === 'string' || typeof cell === 'number';
}

/** Looks up what the texts of references mean, each once. */
export class ReferenceKeys {
  private readonly known = new Map<string, Map<string, readonly Value[]>>();

  /** The keys of all texts of some rows. @throws what the requests reject with */
  async find(
    rows: readonly FileRow[],
    corrections: Corrections,
    reading: Pick<Reading, 'matching' | 'references' | 'zone'>,
    request: Client['rows'],
    signal: AbortSignal,
  ): Promise<ReadonlyMap<string, FoundKeys>> {
    const { matching, references, zone } = reading;
    if (references.size === 0) return new Map();
    const wanted = new Map<string, Set<string>>();
    for (const [index, row] of rows.entries()) {
      for (const [{ name }, cell] of cellsOf(row, matching, corrections.get(index))) {
        if (!references.has(name) || !isText(cell)) continue;
        const text = String(cell).trim();
        if (this.known.get(name)?.has(text) === true) continue;
        wanted.set(name, (wanted.get(name) ?? new Set()).add(text));
      }
    }
    for (const [name, texts] of wanted) {
      const reference = references.get(name);
      if (reference === undefined) continue;
      const found = await findKeys([...texts], reference, request, zone, signal);
      const known = this.known.get(name) ?? new Map<string, readonly Value[]>();
      for (const text of texts) known.set(text, found.get(text) ?? []);
      this.known.set(name, known);
    }
    return new Map(this.known);
  }
}
