import type { ColumnDescription, Relationship, TableDescription } from './description.ts';
import { labelOf, spoken } from './label.ts';

/** The other published tables, by name; undefined for those that there are not, or not yet. */
export type Tables = (name: string) => TableDescription | undefined;

/** A column of a table, or of a row that its rows refer to, by the name under which it is used. */
export interface FoundColumn extends ColumnDescription {
  /** The foreign keys to follow, one after the other; empty for the table's own columns. */
  readonly path: readonly Relationship[];
  /** Its name in the table where it lies. */
  readonly own: string;
}

/** How far a name leads that leads to no column. */
export interface NotFound {
  /** The foreign keys that were followed. */
  readonly passed: readonly string[];
  /** The table that they lead to. */
  readonly table: TableDescription;
  /** What of the name there is not in that table. */
  readonly rest: string;
  /** The table that would have to be known to go on; undefined where that would not help. */
  readonly wanted?: string;
}

/** Foreign keys followed by one name at most. */
const mostSteps = 8;

/** A column by its name, or by its path over foreign keys, such as `lock.canal.name`. */
export function findColumn(
  name: string,
  table: TableDescription,
  tables: Tables,
): FoundColumn | NotFound {
  const reported = describedColumn(name, table);
  if (reported !== undefined) return reported;
  const found = follow(name, table, [], tables);
  if (!('column' in found)) return found;
  const { path, column } = found;
  if (path.length === 0) return { ...column, path, own: column.name };
  const labels = relatedLabels(table, path, column, tables);
  // A row may refer to none; and no index of the table leads there.
  return { ...column, name, ...labels, path, own: column.name, nullable: true, indexed: false };
}

/** A related column that the table itself reports: no other one has to be known for it. */
function describedColumn(name: string, table: TableDescription): FoundColumn | undefined {
  const column = table.related?.find((one) => one.name === name);
  if (column === undefined) return undefined;
  const step = toOne(table).find((one) => name.startsWith(`${one.name}.`));
  return step && { ...column, path: [step], own: name.slice(step.name.length + 1) };
}

/** The columns with longer labels for those that would be called the same otherwise. */
export function toldApart<Column extends Pick<FoundColumn, 'label' | 'longLabel'>>(
  columns: readonly Column[],
): readonly Column[] {
  return columns.map((column) => {
    const { label, longLabel = label } = column;
    const twins = columns.filter((one) => one.label === label).length;
    return twins > 1 ? { ...column, label: longLabel } : column;
  });
}

/** The columns of the tables that a row refers to, over so many foreign keys at most. */
export function columnsAround(
  table: TableDescription,
  tables: Tables,
  steps: number,
): readonly FoundColumn[] {
  const names = namesAround(table, tables, steps);
  return names.flatMap((name) => {
    const found = findColumn(name, table, tables);
    return 'own' in found ? [found] : [];
  });
}

/** Nearer ones first, each table's columns together. */
function namesAround(table: TableDescription, tables: Tables, steps: number): readonly string[] {
  if (steps === 0) return [];
  return toOne(table).flatMap(({ name, table: other }) => {
    const there = tables(other);
    if (there === undefined) return [];
    const own = there.columns.map((column) => column.name);
    return [...own, ...namesAround(there, tables, steps - 1)].map((inside) => `${name}.${inside}`);
  });
}

/** The foreign keys by which each row of a table refers to at most one other. */
export function toOne({
  relationships,
}: Pick<TableDescription, 'relationships'>): readonly Relationship[] {
  return relationships.filter(({ kind }) => kind === 'one');
}

/** Follows a name along foreign keys, also those with dots in their own names. */
function follow(
  rest: string,
  table: TableDescription,
  path: readonly Relationship[],
  tables: Tables,
): { readonly path: readonly Relationship[]; readonly column: ColumnDescription } | NotFound {
  const own = table.columns.find((column) => column.name === rest);
  if (own !== undefined) return { path, column: own };
  let furthest: NotFound = { passed: path.map(({ name }) => name), table, rest };
  if (path.length === mostSteps) return furthest;
  for (const relationship of toOne(table)) {
    if (!rest.startsWith(`${relationship.name}.`)) continue;
    const next = tables(relationship.table);
    if (next === undefined) {
      furthest = { wanted: relationship.table, ...furthest };
      continue;
    }
    const inside = rest.slice(relationship.name.length + 1);
    const further = follow(inside, next, [...path, relationship], tables);
    if ('column' in further) return further;
    if (further.wanted !== undefined || further.passed.length > furthest.passed.length) {
      furthest = further;
    }
  }
  return furthest;
}

/**
 * What a related column is called: by what it is, "Canal" for the column that names a canal, else
 * "Canal length"; by its whole path, "Lock canal name", where the table has a column of that label
 * that is not shown as this one.
 */
function relatedLabels(
  table: TableDescription,
  path: readonly Relationship[],
  column: ColumnDescription,
  tables: Tables,
): { readonly label: string; readonly longLabel?: string } {
  const labels: string[] = [];
  let there = table;
  for (const step of path) {
    labels.push(referenceLabel(there, step));
    there = tables(step.table) ?? there;
  }
  const own = there.label === column.name ? [] : [column.label];
  const short = joined([labels.at(-1) ?? '', ...own]);
  const longLabel = joined([...labels, column.label]);
  const name = [...path.map((step) => step.name), column.name].join('.');
  const taken = table.columns.some(({ label, shownAs }) => label === short && shownAs !== name);
  if (!taken && table.columns.some(({ shownAs }) => shownAs === name)) return { label: short };
  return { label: taken ? longLabel : short, longLabel };
}

/** What the row is called that a foreign key refers to: "Lock" for `lock_id`. */
function referenceLabel(table: TableDescription, { name, columns }: Relationship): string {
  // A key of several columns is called as its relationship is.
  if (columns.length > 1) return labelOf(name);
  const column = table.columns.find((one) => one.name === columns[0]);
  // Of a foreign key that nobody has given a name the last word says nothing.
  return column?.label.replace(/ id$/i, '') ?? name;
}

/** Labels one behind the other, all but the first as in a sentence. */
export function joined(labels: readonly string[]): string {
  return labels.map((one, place) => (place === 0 ? one : spoken(one))).join(' ');
}
