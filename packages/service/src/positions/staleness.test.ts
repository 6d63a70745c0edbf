import { stalenessOf } from './staleness.ts';

const bounds = { staleAfter: 30_000, age: 600_000 };
const before = { rows: 1_000, files: 'a' };
const after = (rows: number, files = 'a'): typeof before => ({ rows: 1_000 + rows, files });

/** An entry of a hundred thousand rows. */
type Made = Parameters<typeof stalenessOf>[0];
const entry = (more: Partial<Made> = {}): Made => ({
  ...{ changes: before, reach: 100_000, places: undefined, took: 2_000 },
  ...more,
});
const places = {};

describe('mileposts by now', () => {
  it.each([
    ['stay where nothing was written', after(0), 10_000_000, 'unchanged'],
    ['stay for a while, however much was written', after(500), 29_000, 'outdated'],
    ['are set anew once more than one row in 2,000 was written', after(51), 31_000, 'renew'],
    ['stay where less was', after(49), 31_000, 'outdated'],
    ['are set anew at last where anything was', after(1), 600_001, 'renew'],
    ['are useless once a tenth was written', after(10_001), 0, 'useless'],
    ['are useless in other files, as after TRUNCATE', after(1, 'b'), 0, 'useless'],
  ] as const)('%s', (_words, found, since, expected) => {
    expect(stalenessOf(entry(), found, since, bounds)).toBe(expected);
  });

  it('weigh each table by its own size', () => {
    const sized = (rows: number): { rows: number; size: number }[] => [
      { rows: 5, size: 600_000 },
      { rows, size: 1_000 },
    ];
    const changes = { ...before, tables: sized(0) };
    const now = (rows: number): typeof changes => ({ ...after(rows), tables: sized(rows) });
    const made = entry({ changes, reach: 600_000 });
    // A hundredth of a small table, and a half of it; of all rows next to nothing.
    expect(stalenessOf(made, now(10), 31_000, bounds)).toBe('renew');
    expect(stalenessOf(made, now(500), 0, bounds)).toBe('useless');
  });

  it('are set again now and then where nobody counts what is written', () => {
    const unknown = entry({ changes: undefined });
    expect(stalenessOf(unknown, undefined, 29_000, bounds)).toBe('outdated');
    expect(stalenessOf(unknown, undefined, 31_000, bounds)).toBe('renew');
  });
});

describe('places by now', () => {
  it.each([
    ['are found anew once anything was written, after five times what it took', 2_000, 10_001],
    ['but not within the first second', 10, 1_001],
  ])('%s', (_words, took, since) => {
    const one = entry({ places, took });
    expect(stalenessOf(one, after(1), since - 2, bounds)).toBe('outdated');
    expect(stalenessOf(one, after(1), since, bounds)).toBe('renew');
    expect(stalenessOf(one, after(0), since, bounds)).toBe('unchanged');
  });
});
