import { moved } from './movement.ts';

const bounds = { firstRow: 0, lastRow: 999, lastColumn: 4, pageRows: 18 };

describe('keys in the table', () => {
  it.each([
    ['ArrowDown', false, { row: 11, column: 2 }],
    ['ArrowUp', false, { row: 9, column: 2 }],
    ['ArrowLeft', false, { row: 10, column: 1 }],
    ['ArrowRight', false, { row: 10, column: 3 }],
    ['PageDown', false, { row: 28, column: 2 }],
    ['PageUp', false, { row: 0, column: 2 }],
    ['Home', false, { row: 10, column: 0 }],
    ['End', false, { row: 10, column: 4 }],
    ['Home', true, { row: 0, column: 0 }],
    ['End', true, { row: 999, column: 4 }],
    ['ArrowDown', true, { row: 999, column: 2 }],
    ['a', false, undefined],
  ])('%s (whole: %s) moves to %j', (key, whole, place) => {
    expect(moved({ row: 10, column: 2 }, key, whole, bounds)).toEqual(place);
  });
});
