import { plainColumn } from '@ephoros/core/schema';
import { columnTree } from './column-tree.ts';

const column = (name: string): ReturnType<typeof plainColumn> =>
  plainColumn(name, { kind: 'text' });

it('has related columns under the references that lead to them', () => {
  const all = ['lock.name', 'lock.canal.name', 'lock.canal.length_km', 'boat.owner.name'];
  expect(columnTree(all.map(column))).toEqual([
    {
      path: 'lock',
      label: 'Lock',
      columns: [column('lock.name')],
      branches: [
        {
          path: 'lock.canal',
          label: 'Canal',
          columns: [column('lock.canal.name'), column('lock.canal.length_km')],
          branches: [],
        },
      ],
    },
    {
      path: 'boat',
      label: 'Boat',
      columns: [],
      branches: [
        { path: 'boat.owner', label: 'Owner', columns: [column('boat.owner.name')], branches: [] },
      ],
    },
  ]);
  expect(columnTree([])).toEqual([]);
});

it('keeps apart references whose names begin alike', () => {
  const names = columnTree(['lock.name', 'lock_before.name'].map(column)).map(({ path }) => path);
  expect(names).toEqual(['lock', 'lock_before']);
});
