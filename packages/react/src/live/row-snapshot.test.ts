import type { Row, RowSource } from '@ephoros/client';
import { differenceOf, keyOf, snapshotOf } from './row-snapshot.ts';

const sourceOf = (rows: readonly Row[]): RowSource =>
  ({ row: (position: number) => rows[position] }) as RowSource;

const visibleRange = (rows: readonly Row[]): ReturnType<typeof snapshotOf> =>
  snapshotOf(sourceOf(rows), { first: 0, last: rows.length - 1 }, ['id']);

describe('the rows in view', () => {
  it('differ in the cells that are other ones, wherever their rows stand by now', () => {
    const before = visibleRange([
      { id: 3, name: 'c', toll: '1.00' },
      { id: 2, name: 'b', toll: null },
      { id: 1, name: 'a', toll: '2.00' },
    ]);
    const now = visibleRange([
      { id: 4, name: 'd', toll: '4.00' },
      { id: 3, name: 'c', toll: '1.50' },
      { id: 2, name: 'b', toll: null },
    ]);
    const { cells, before: came } = differenceOf(before, now, ['id', 'name', 'toll']);
    expect([...cells]).toEqual([
      [0, ['id', 'name', 'toll']],
      [1, ['toll']],
    ]);
    expect(came).toBe(1);
    expect(differenceOf(now, before, ['id']).before).toBe(-1);
    expect(differenceOf(before, before, ['id'])).toEqual({ cells: new Map(), before: 0 });
    // Where nothing was in view nothing has changed.
    expect(differenceOf(new Map(), now, ['id'])).toEqual({ cells: new Map(), before: 0 });
  });

  it('are known by their keys as events name them', () => {
    expect(keyOf({ a: 17, b: 'x"y' }, ['b', 'a'])).toBe('["x\\"y","17"]');
  });
});
