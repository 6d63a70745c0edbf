import type { CheckedChange } from '@ephoros/core/change';
import type { CheckedColumn } from '@ephoros/core/check';
import { printKey } from '@ephoros/core/schema';
import type { Published } from '../catalog/index.ts';
import { rowEncoder, valueEncoder } from '../encode/index.ts';
import type { LoggedChange } from '../records/index.ts';
import type { RowResult } from './batch.ts';
import type { TextRow } from './writer.ts';

/** The rows of a table as answers write them. */
export class RowTexts {
  private readonly published: Published;
  private readonly columns: readonly CheckedColumn[];
  private readonly shown: readonly string[];
  private readonly writers = new Map<readonly string[], (row: TextRow) => string>();
  /** All columns that are read back. */
  readonly names: readonly string[];

  constructor(published: Published) {
    this.published = published;
    const columns = published.writing?.whole.columns ?? [];
    this.columns = columns.map((column) => ({ ...column, path: [], own: column.name }));
    this.shown = published.description.columns.map(({ name }) => name);
    this.names = this.columns.map(({ name }) => name);
  }

  /** A row as a JSON object of the columns that are named, or of all that the caller may see. */
  json(row: TextRow, names: readonly string[] = this.shown): string {
    const known = this.writers.get(names) ?? this.writer(names);
    this.writers.set(names, known);
    return known(row);
  }

  private writer(names: readonly string[]): (row: TextRow) => string {
    const places = names
      .map((name) => this.columns.findIndex((column) => column.name === name))
      .filter((place) => place !== -1);
    const encode = rowEncoder(places.flatMap((place) => this.columns[place] ?? []));
    return (row) => encode(places.map((place) => row[place] ?? null));
  }

  /** A key in PostgreSQL's notation as its table's answers write it. */
  key(key: readonly string[]): readonly string[] {
    return this.published.description.key.map((name, index) => {
      const column = this.columns.find((one) => one.name === name);
      const text = key[index] ?? '';
      if (column === undefined) return text;
      const json = valueEncoder(column.type)(text);
      return json.startsWith('"') ? (JSON.parse(json) as string) : json;
    });
  }
}

/** What is remembered of a row that was written. */
export function logLine(
  { kind: deed, table }: Pick<CheckedChange, 'kind' | 'table'>,
  { key, before, after }: Extract<RowResult, { kind: 'done' }>,
  texts: RowTexts,
  { columns, withValues }: { readonly columns: readonly string[]; readonly withValues: boolean },
): LoggedChange {
  const value = (row: TextRow | undefined): string | null =>
    row === undefined || !withValues ? null : texts.json(row, columns);
  return {
    table: table.name,
    key: printKey(texts.key(key)),
    kind: deed === 'set' ? 'change' : deed,
    columns,
    before: value(before),
    after: value(after),
  };
}
