import type { ColumnDescription, Relationship, TableDescription } from './description.ts';
import { findColumn, joined, toldApart, toOne, type Tables } from './related.ts';

/**
 * A table whose references tell what names the rows that they lead to: the label of the other
 * table. Of a foreign key of several columns the last one reports it that does not yet tell of
 * another, for the first ones are often shared.
 */
export function withReferences(table: TableDescription, tables: Tables): TableDescription {
  const { related: _before, ...plain } = table;
  const unnamed = {
    ...plain,
    columns: table.columns.map(({ shownAs: _as, longLabel: _long, ...column }) => column),
  };
  const steps = new Map<string, Relationship>();
  for (const step of toOne(unnamed)) {
    const own = step.columns.findLast((column) => !steps.has(column));
    if (own !== undefined && pathOf(step, unnamed, tables) !== undefined) steps.set(own, step);
  }
  if (steps.size === 0) return unnamed;
  const columns = unnamed.columns.map((column): ColumnDescription => {
    const step = steps.get(column.name);
    if (step === undefined) return column;
    const shownAs = pathOf(step, unnamed, tables);
    if (shownAs === undefined) return column;
    return { ...column, shownAs, longLabel: keyLabel(column, step, tables) };
  });
  const named = { ...unnamed, columns };
  const related = columns.flatMap(({ shownAs }): ColumnDescription[] => {
    const found = shownAs === undefined ? undefined : findColumn(shownAs, named, tables);
    if (found === undefined || !('own' in found)) return [];
    const { path: _path, own: _own, ...column } = found;
    return [column];
  });
  return { ...named, related };
}

/** The column that names the row behind a reference; a key that names it itself is read as it is. */
function pathOf(
  { name, table: other, references }: Relationship,
  table: TableDescription,
  tables: Tables,
): string | undefined {
  const label = tables(other)?.label;
  if (label === undefined || references.includes(label)) return undefined;
  const found = findColumn(`${name}.${label}`, table, tables);
  return 'own' in found && found.path.length === 1 ? found.name : undefined;
}

/** What distinguishes a reference from its label: "Lock no." */
function keyLabel(
  { name, label }: ColumnDescription,
  { table, columns, references }: Relationship,
  tables: Tables,
): string {
  const key = references[columns.indexOf(name)];
  const there = tables(table)?.columns.find((one) => one.name === key);
  return joined([label, there?.label ?? name]);
}

/** The columns of a table as people choose among them: a reference behind what it is shown as. */
export function columnsToChoose({
  columns,
  related = [],
}: Pick<TableDescription, 'columns' | 'related'>): readonly ColumnDescription[] {
  const all = columns.flatMap((column) => {
    const named = related.find(({ name }) => name === column.shownAs);
    return named === undefined ? [column] : [named, column];
  });
  return toldApart([...new Set(all)]);
}

/** What people read of a table's rows: in place of each reference what names the row it leads to. */
export function shownNames({ columns }: Pick<TableDescription, 'columns'>): readonly string[] {
  const names = columns.filter(({ shown }) => shown).map(({ name, shownAs = name }) => shownAs);
  return [...new Set(names)];
}
