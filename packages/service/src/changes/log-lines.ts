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
    const columns = (published.writing?.whole ?? published.description).columns;
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

  /** Some columns of a row as a JSON object of PostgreSQL's own texts. */
  texts(row: TextRow, names: readonly string[]): string {
    const texts = names.map((name): [string, string | null] => {
      const place = this.columns.findIndex((column) => column.name === name);
      return [name, row[place] ?? null];
    });
    return JSON.stringify(Object.fromEntries(texts));
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

/** A row that was changed, by the set itself or by a rule of a foreign key. */
export interface MadeChange {
  readonly published: Published;
  readonly kind: LoggedChange['kind'];
  readonly columns: readonly string[];
  readonly result: Pick<
    Extract<RowResult, { kind: 'done' }>,
    'key' | 'keyBefore' | 'before' | 'after'
  >;
  readonly rule: LoggedChange['rule'];
}

/** The entry of the history for a row that was changed. */
export function logLine(
  { published, kind, columns, result: { key, keyBefore, before, after }, rule }: MadeChange,
  texts: RowTexts,
  withValues: boolean,
): LoggedChange {
  const values = (row: TextRow | undefined): string | null =>
    row === undefined || !withValues ? null : texts.texts(row, columns);
  const address = printKey(texts.key(key));
  const earlier = keyBefore === undefined ? address : printKey(texts.key(keyBefore));
  return {
    table: published.description.name,
    key: address,
    keyBefore: earlier === address ? null : earlier,
    kind,
    columns,
    before: values(before),
    after: values(after),
    rule,
  };
}
