import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { TableColumn } from '../table/column.ts';

/** Fields of a row on a narrow screen, its name among them. */
const mostFields = 5;

/** How the rows of a narrow table stand: some fields each, on several lines. */
export interface CardRows {
  readonly columns: readonly TableColumn[];
  /** How many lines a row takes. */
  readonly lines: number;
}

/**
 * The columns as fields of a card: what names the row first, then those that the table's description
 * wants first; else by their types, what people tell rows apart by.
 */
export function cardRows(
  columns: readonly TableColumn[],
  table: TableDescription,
  column: (name: string) => ColumnDescription | undefined,
): CardRows {
  const margin = columns.filter(({ name }) => name === '');
  const fields = columns.filter(({ name }) => name !== '');
  const { label, narrow = [] } = table;
  const weigh = ({ name }: TableColumn): number => {
    const wanted = narrow.indexOf(name);
    if (wanted >= 0) return wanted - mostFields;
    if (narrow.length === 0 && name === label) return -1;
    return weightOf(column(name), table);
  };
  const weighed = fields
    .map((one, place) => ({ one, place, weight: weigh(one) }))
    .sort((a, b) => a.weight - b.weight || a.place - b.place)
    .slice(0, mostFields)
    .map(({ one }) => one);
  const [headline, ...others] = weighed;
  const captioned = [
    ...(headline === undefined ? [] : [{ ...headline, caption: '' }]),
    ...others.map((one) => ({ ...one, caption: one.label })),
  ];
  return {
    columns: [...margin, ...captioned].map((one) => ({ ...one, pinned: false, align: 'start' })),
    lines: 1 + Math.ceil(others.length / 2),
  };
}

/** On a narrow screen one column at most stays in view, next to the margin. */
export function onePinned(columns: readonly TableColumn[]): readonly TableColumn[] {
  const remaining = columns.find(({ name, pinned }) => name !== '' && pinned === true);
  return columns.map((one) =>
    one === remaining || one.name === '' || one.pinned !== true ? one : { ...one, pinned: false },
  );
}

/** The less, the sooner people look at it. */
function weightOf(column: ColumnDescription | undefined, { key }: TableDescription): number {
  if (column === undefined || key.includes(column.name)) return 9;
  if (column.format?.kind === 'picture') return 8;
  switch (column.type.kind) {
    case 'text':
      return column.name.includes('.') ? 1 : 2;
    case 'enum':
      return 1;
    case 'timestamp':
    case 'date':
      return 0;
    case 'numeric':
    case 'float':
      return 3;
    case 'integer':
    case 'boolean':
      return 4;
    default:
      return 6;
  }
}
