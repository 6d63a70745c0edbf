import { isNumeric, type ColumnType } from './column-type.ts';
import type { ColumnDescription, TableDescription } from './description.ts';

/** What columns are taken together by where nobody has stated it. */
export type SectionKind = 'itself' | 'references' | 'amounts' | 'times' | 'more';

/** Columns of a row that are read together: by a name that somebody gave them, else by their kind. */
export type Section = { readonly columns: readonly ColumnDescription[] } & (
  { readonly title: string } | { readonly kind: SectionKind }
);

const kinds: readonly SectionKind[] = ['itself', 'references', 'amounts', 'times', 'more'];

/**
 * All columns of a table in sections: the configured ones first, then by kind what is in none of
 * them. No section is empty.
 */
export function sectionsOf(table: TableDescription): readonly Section[] {
  const { columns, sections = [] } = table;
  const placed = new Set(sections.flatMap((one) => one.columns));
  const named = sections.map(({ title, columns: names }): Section => {
    const there = names.flatMap((name) => columns.find((column) => column.name === name) ?? []);
    return { title, columns: there };
  });
  const left = columns.filter(({ name }) => !placed.has(name));
  const byKind = kinds.map((kind): Section => ({
    kind,
    columns: left.filter((column) => kindOf(column, table) === kind),
  }));
  return [...named, ...byKind].filter((section) => section.columns.length > 0);
}

function kindOf({ name, type, format }: ColumnDescription, table: TableDescription): SectionKind {
  const { key, relationships } = table;
  if (relationships.some(({ kind, columns }) => kind === 'one' && columns.includes(name))) {
    return 'references';
  }
  if (key.includes(name) || format?.kind === 'identifier') return 'itself';
  if (isTime(type)) return 'times';
  if (isNumeric(type)) return 'amounts';
  const plain = ['text', 'boolean', 'enum', 'uuid'].includes(type.kind);
  return plain ? 'itself' : 'more';
}

function isTime({ kind }: ColumnType): boolean {
  return kind === 'date' || kind === 'time' || kind === 'timestamp' || kind === 'interval';
}
