import { plainTable } from '../../../core/src/testing/tables.ts';
import { plainColumn, type ColumnType, type TableDescription } from '@ephoros/core/schema';
import type { TableColumn } from '../table/column.ts';
import { cardRows, onePinned } from './card-rows.ts';

const types: Readonly<Record<string, ColumnType>> = {
  id: { kind: 'integer', bits: 32 },
  doc: { kind: 'json' },
  fee: { kind: 'numeric' },
  'quay.name': { kind: 'text' },
  note: { kind: 'text' },
  state: { kind: 'enum', name: 'state', values: ['free'] },
  opened: { kind: 'timestamp', zone: true },
};
const described = Object.entries(types).map(([name, type]) => plainColumn(name, type));
const table = plainTable('berths', described);
const columns: readonly TableColumn[] = ['', ...Object.keys(types)].map((name) => ({
  name,
  label: name,
  width: 100,
  pinned: name === '' || name === 'id',
}));
const named = (name: string) => described.find((one) => one.name === name);
const fields = (more: Partial<TableDescription> = {}): (string | undefined)[][] =>
  cardRows(columns, { ...table, ...more }, named).columns.map(({ name, caption }) => [
    name,
    caption,
  ]);

it('has the margin, what names the row, and what distinguishes rows by its type', () => {
  expect(fields({ label: 'note' })).toEqual([
    ['', undefined],
    ['note', ''],
    ['opened', 'opened'],
    ['quay.name', 'quay.name'],
    ['state', 'state'],
    ['fee', 'fee'],
  ]);
});

it('has what the table wants first before all else, in that order', () => {
  expect(fields({ label: 'note', narrow: ['doc', 'id', 'gone'] }).map(([name]) => name)).toEqual([
    '',
    'doc',
    'id',
    'opened',
    'quay.name',
    'state',
  ]);
});

it('takes as many lines as its fields need, and none of them stays while others scroll', () => {
  const { lines, columns: drawn } = cardRows(columns, table, named);
  expect(lines).toBe(3);
  expect(cardRows(columns.slice(0, 3), table, named).lines).toBe(2);
  expect(drawn.every(({ pinned }) => pinned === false)).toBe(true);
});

it('leaves an outline one column that stays next to the margin, at either side', () => {
  const wide = columns.map((one) => ({ ...one, pinned: true }));
  const remaining = onePinned(wide).filter(({ pinned }) => pinned);
  expect(remaining.map(({ name }) => name)).toEqual(['', 'id']);
});
