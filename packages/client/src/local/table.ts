import {
  labelOf,
  namedBy,
  plainColumn,
  type ColumnDescription,
  type ColumnFormat,
  type ColumnType,
  type TableDescription,
  type TableWriting,
  type ValueLabels,
} from '@ephoros/core/schema';
import { encoded, typeOfValues } from './infer.ts';
import { DataError, type GivenRows } from './texts.ts';

/** What is known of a column beyond its values. */
export interface LocalColumn {
  readonly label?: string;
  readonly type?: ColumnType;
  readonly format?: ColumnFormat;
  /** What values are called, by the text of each. */
  readonly valueLabels?: ValueLabels;
}

/** What is known of local rows beyond their values. */
export interface LocalTableOptions {
  readonly title?: string;
  /** The columns that identify a row; `id` where there is one that does. */
  readonly key?: readonly string[];
  /** By name. Types are taken from the values by default. */
  readonly columns?: Readonly<Record<string, LocalColumn>>;
  /** Columns to sort by where a query names none; `-` for descending. The given order by default. */
  readonly sort?: readonly string[];
  /** Page sizes offered to readers; the first one is the default. */
  readonly pageSizes?: readonly number[];
  /** What may be changed; nothing by default. The changed rows stay with the client alone. */
  readonly changes?: TableWriting;
}

/** Rows at hand with what they are. */
export interface LocalTable {
  readonly description: TableDescription;
  readonly rows: readonly Readonly<Record<string, unknown>>[];
}

/** No answer from rows at hand is larger. */
const rowCap = 10_000_000;

/** Describes rows, and puts their values into the encoding of answers. @throws DataError */
export function localTable(
  name: string,
  { names, rows, labels = {} }: GivenRows,
  options: LocalTableOptions = {},
): LocalTable {
  const { columns: known = {}, sort = [], pageSizes = [50, 100, 200], title } = options;
  for (const column of [...Object.keys(known), ...(options.key ?? []), ...sort.map(bare)]) {
    if (!names.includes(column)) {
      throw new DataError(
        `No row of ${name} has a column ${column}. There are ${names.join(', ')}.`,
      );
    }
  }
  const columns = names.map((column) =>
    describe(column, rows, { label: labels[column] ?? labelOf(column), ...known[column] }),
  );
  const made = rows.map((row) =>
    Object.fromEntries(columns.map(({ name: own, type }) => [own, encoded(row[own], type)])),
  );
  const id = names.find((one) => one === 'id');
  const key = options.key ?? (id !== undefined && isDistinct(id, made) ? [id] : []);
  const changes = key.length === 0 ? undefined : options.changes;
  return {
    rows: made,
    description: {
      ...(changes && { changes }),
      name,
      title: title ?? labelOf(name),
      kind: 'table',
      key,
      columns: columns.map((column) =>
        namedBy(changes === undefined ? column : writable(column, key, changes), new Set(key)),
      ),
      relationships: [],
      search: columns.filter(({ type }) => type.kind === 'text').map((one) => one.name),
      defaultSort: sort.map((term) => ({ column: bare(term), descending: term !== bare(term) })),
      pageSizes,
      rowCap,
      estimatedRows: rows.length,
      remarks: [],
    },
  };
}

/** Values at hand say what is there, not what may be: all but the key may be missing. */
function writable(
  column: ColumnDescription,
  key: readonly string[],
  { add, change }: TableWriting,
): ColumnDescription {
  const own = key.includes(column.name);
  const counted = own && key.length === 1 && column.type.kind === 'integer';
  return {
    ...column,
    nullable: !own,
    writing: {
      ...(add ? { add } : {}),
      ...(change && !own ? { change } : {}),
      ...(add && own && !counted ? { required: true } : {}),
    },
  };
}

function describe(
  name: string,
  rows: GivenRows['rows'],
  { label = name, type: given, format, valueLabels }: LocalColumn,
): ColumnDescription {
  const values = rows.map((row) => row[name]);
  const type = given ?? typeOfValues(values);
  return plainColumn(name, type, {
    label,
    nullable: values.some((value) => value === null || value === undefined),
    // At hand everything is as quick.
    indexed: true,
    ...(format === undefined ? {} : { format }),
    ...(valueLabels === undefined ? {} : { valueLabels }),
    ...(type.kind === 'text' ? { textOrder: 'und' } : {}),
  });
}

function isDistinct(name: string, rows: LocalTable['rows']): boolean {
  const values = new Set(rows.map((row) => row[name] ?? null));
  return values.size === rows.length && !values.has(null);
}

function bare(term: string): string {
  return term.replace(/^-/, '');
}
