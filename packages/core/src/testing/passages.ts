import { plainColumn } from '../schema/index.ts';
import type { ColumnDescription, ColumnType, TableDescription } from '../schema/index.ts';

/** A column for tests; nullable, indexed and shown unless stated otherwise. */
function column(
  name: string,
  type: ColumnType,
  more: Partial<ColumnDescription> = {},
): ColumnDescription {
  return plainColumn(name, type, { indexed: true, ...more });
}

/** A table description like the demo's passages, with a column of every kind. */
export const passages: TableDescription = {
  name: 'passages',
  title: 'Passages',
  kind: 'table',
  key: ['id'],
  columns: [
    column('id', { kind: 'integer', bits: 64 }, { nullable: false }),
    column('passed_at', { kind: 'timestamp', zone: true }, { nullable: false }),
    column('lock_id', { kind: 'integer', bits: 32 }, { nullable: false }),
    column('toll', { kind: 'numeric', precision: 8, scale: 2 }),
    column('speed', { kind: 'float', bits: 64 }),
    column('status', { kind: 'enum', name: 'passage_status', values: ['passed', 'disputed'] }),
    column('note', { kind: 'text' }),
    column('clear', { kind: 'boolean' }),
    column('day', { kind: 'date' }),
    column('at', { kind: 'time', zone: false }),
    column('logged', { kind: 'timestamp', zone: false }),
    column('crossing', { kind: 'interval' }),
    column('mark', { kind: 'uuid' }),
    column('details', { kind: 'json' }),
    column('crew', { kind: 'array', element: { kind: 'text' } }),
    column('place', { kind: 'opaque', name: 'point' }),
  ],
  relationships: [],
  search: ['note'],
  defaultSort: [{ column: 'passed_at', descending: true }],
  pageSizes: [50, 100],
  rowCap: 1000,
  estimatedRows: 200_000,
  remarks: [],
};
