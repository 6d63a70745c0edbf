import fc from 'fast-check';
import { blocksOf, pageCount, pageSet, ScrollScale } from './index.ts';

describe('blocks', () => {
  it('cover what is looked at and no more', () => {
    expect(blocksOf(0, 100, 100)).toEqual({ first: 0, last: 0 });
    expect(blocksOf(99, 101, 100)).toEqual({ first: 0, last: 1 });
    expect(blocksOf(-5, 1, 100)).toEqual({ first: 0, last: 0 });
    expect(blocksOf(5, 5, 100)).toEqual({ first: 0, last: -1 });
  });
});

describe('pages', () => {
  it('are counted with the last, short one, and never none', () => {
    expect([pageCount(0, 50), pageCount(50, 50), pageCount(51, 50)]).toEqual([1, 1, 2]);
  });

  it.each([
    [1, 1, [1], undefined, undefined],
    [1, 3, [1, 2, 3], undefined, undefined],
    [5, 12, [1, 2, 3, 4, 5], undefined, 6],
    [7, 4000, [6, 7, 8, 9, 10], 5, 11],
    [3998, 3998, [3996, 3997, 3998], 3995, undefined],
    // Of an open end the pages up to this one are known.
    [7, 7, [6, 7], 5, undefined],
    // A page behind the last one, as an old address may have it.
    [9, 7, [6, 7, 8, 9], 5, undefined],
  ])('of the set around %i of %i', (page, count, pages, earlier, later) => {
    expect(pageSet(page, count)).toEqual({ pages, earlier, later });
  });
});

describe('the scale between rows and the scroll bar', () => {
  it('is a pixel for a pixel as long as a browser can bear the height', () => {
    const scale = new ScrollScale(200_000, 34, 600);
    expect(scale.height).toBe(6_800_000);
    expect(scale.rowsAbove(123_456)).toBe(123_456);
  });

  it('reaches the first and the last row of any result, and goes back and forth', () => {
    fc.assert(
      fc.property(
        fc.nat(50_000_000),
        fc.integer({ min: 20, max: 60 }),
        fc.integer({ min: 100, max: 2000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (rows, height, view, share) => {
          const scale = new ScrollScale(rows, height, view);
          expect(scale.height).toBeLessThanOrEqual(8_000_000);
          expect(scale.rowsAbove(0)).toBe(0);
          expect(scale.rowsAbove(scale.height)).toBeCloseTo(Math.max(0, rows * height - view), 3);
          const above = share * Math.max(0, rows * height - view);
          expect(scale.rowsAbove(scale.scrollTopFor(above))).toBeCloseTo(above, 3);
        },
      ),
    );
  });

  it('moves pixel by pixel under a finger and by shares under the bar, to both ends', () => {
    const scale = new ScrollScale(10_000_000, 34, 600);
    expect(scale.scaled).toBe(true);
    const middle = 123_456_789;
    const bar = scale.scrollTopFor(middle);
    expect(scale.scrolled(middle, bar, bar + 100)).toBe(middle + 100);
    expect(scale.scrolled(middle, bar, bar - 100)).toBe(middle - 100);
    expect(scale.scrolled(middle, bar, 1_000_000)).toBe(scale.rowsAbove(1_000_000));
    expect(scale.scrolled(500, scale.scrollTopFor(500), 0)).toBe(0);
    const last = scale.within(Infinity);
    const end = scale.height - 600;
    expect(scale.scrolled(last - 500, scale.scrollTopFor(last - 500), end)).toBe(last);
    const plain = new ScrollScale(1000, 34, 600);
    expect(plain.scaled).toBe(false);
    expect(plain.scrolled(100, 100, 150)).toBe(150);
    expect(plain.within(-5)).toBe(0);
  });
});
