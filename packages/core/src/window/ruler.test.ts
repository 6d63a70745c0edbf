import fc from 'fast-check';
import { approach, rulerMarks, valueAt, type RulerOptions, type Tick } from './index.ts';

const timestamp = { kind: 'timestamp', zone: true } as const;
const text = { kind: 'text' } as const;
const numeric = { kind: 'numeric' } as const;

/** Ticks at even places over 1,000 rows. */
function ticksOf(count: number, value: (share: number) => unknown): Tick[] {
  return Array.from({ length: count }, (_, index) => ({
    offset: Math.round((index * 1000) / count),
    value: value(index / (count - 1)),
  }));
}

function between(from: string, to: string): (share: number) => string {
  const [first, last] = [Date.parse(from), Date.parse(to)];
  return (share) => new Date(first + (last - first) * share).toISOString();
}

function marks(options: Partial<RulerOptions> & Pick<RulerOptions, 'ticks'>): string[] {
  const whole = { type: timestamp, total: 1000, room: 10, locale: 'en-GB', ...options };
  return rulerMarks(whole).map(({ offset, text: written }) => `${offset} ${written}`);
}

describe('the marks of a ruler', () => {
  it('are years over many years, each where it begins', () => {
    const rising = ticksOf(200, between('2016-01-01T00:00:00Z', '2025-12-28T00:00:00Z'));
    const texts = marks({ ticks: rising }).map((mark) => mark.split(' '));
    expect(texts.map(([, year]) => year)).toEqual([
      ...['2016', '2017', '2018', '2019', '2020', '2021', '2022', '2023', '2024', '2025'],
    ]);
    for (const [offset, year] of texts) {
      expect(Math.abs(Number(offset) - (Number(year) - 2016) * 100)).toBeLessThan(8);
    }
  });

  it('name what is entered where values fall', () => {
    const falling = ticksOf(200, between('2020-07-01T00:00:00Z', '2017-07-01T00:00:00Z'));
    expect(marks({ ticks: falling, room: 6 }).map((mark) => mark.split(' ')[1])).toEqual([
      ...['2020', '2019', '2018', '2017'],
    ]);
  });

  it('are months or days or hours over shorter spans, coarse ones first', () => {
    const year = ticksOf(100, between('2024-01-01T00:00:00Z', '2025-01-01T00:00:00Z'));
    expect(marks({ ticks: year, room: 12 }).join()).toMatch(/^0 2024,\d+ Feb 2024,\d+ Mar 2024,/);
    const days = ticksOf(100, between('2024-03-01T00:00:00Z', '2024-03-06T00:00:00Z'));
    expect(marks({ ticks: days, room: 6 }).join()).toMatch(/2 Mar,\d+ 3 Mar,\d+ 4 Mar/);
    const hours = ticksOf(100, between('2024-03-01T08:00:00Z', '2024-03-01T11:30:00Z'));
    expect(marks({ ticks: hours, room: 6 }).join()).toMatch(/09:00.*10:00.*11:00/);
  });

  it('are round numbers, however they are spread', () => {
    const even = ticksOf(101, (share) => String(share * 100));
    expect(marks({ ticks: even, type: numeric, room: 5 }).join()).toMatch(/495 50,/);
    const skewed = ticksOf(200, (share) => (4 + 180 * share ** 4).toFixed(2));
    const given = marks({ ticks: skewed, type: numeric, room: 12 }).map((mark) =>
      Number(mark.split(' ')[1]),
    );
    expect(given.length).toBeGreaterThan(5);
    expect([...given].sort((one, other) => one - other)).toEqual(given);
    expect(given).toContain(100);
  });

  it('are first letters, or as many as tell names apart', () => {
    const names = ticksOf(26, (share) => `${String.fromCharCode(65 + Math.round(share * 25))}lder`);
    expect(marks({ ticks: names, type: text, room: 30 })).toHaveLength(26);
    const alike = ticksOf(10, (share) => `Boat ${Math.round(share * 9)}`);
    expect(marks({ ticks: alike, type: text, room: 20 }).at(-1)).toBe('900 Boat 9');
    const mixed = ticksOf(4, (share) => (share < 0.5 ? 'älbe' : 'Älbe'));
    expect(marks({ ticks: mixed, type: text })).toEqual(['0 Älbe']);
  });

  it('are the values where there are few, and say where there are none', () => {
    const hull = { kind: 'enum', name: 'hull', values: ['barge', 'tug'] } as const;
    const values = ticksOf(8, (share) => (share < 0.4 ? 'barge' : share < 0.8 ? 'tug' : null));
    expect(marks({ ticks: values, type: hull })).toEqual(['0 barge', '375 tug', '750 no value']);
    const flags = ticksOf(4, (share) => share > 0.5);
    expect(marks({ ticks: flags, type: { kind: 'boolean' } })).toEqual(['0 no', '500 yes']);
    const spans = ticksOf(100, (share) => `PT${Math.round(share * 50)}M`);
    expect(marks({ ticks: spans, type: { kind: 'interval' } })).toHaveLength(5);
    expect(marks({ ticks: [] })).toEqual([]);
  });

  it('never stand closer than there is room for, whatever the values are', () => {
    const values = fc.array(fc.option(fc.double({ noNaN: true, min: -1e6, max: 1e6 })), {
      maxLength: 60,
    });
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 40 }), fc.boolean(), (all, room, falling) => {
        const valued = all.filter((value) => value !== null).sort((one, other) => one - other);
        if (falling) valued.reverse();
        const missing = all.filter((value) => value === null);
        const ticks = [...valued, ...missing].map((value, index) => ({
          offset: index * 17,
          value,
        }));
        const total = Math.max(1, ticks.length * 17);
        const found = rulerMarks({ ticks, type: numeric, total, room, locale: 'en-GB' });
        for (const [index, { offset }] of found.entries()) {
          const before = found[index - 1];
          if (before !== undefined) {
            expect(offset - before.offset).toBeGreaterThanOrEqual(
              Math.floor((0.9 * total) / room) - 1,
            );
          }
        }
      }),
    );
  });
});

describe('the value at a place', () => {
  it('is read between the ticks where the type has a number line', () => {
    const days = ticksOf(11, between('2024-01-01T00:00:00Z', '2024-01-11T00:00:00Z'));
    expect(valueAt(days, 136, timestamp)).toMatch(/^2024-01-02T1[1-3]/);
    expect(valueAt(days, 5_000, timestamp)).toBe('2024-01-11T00:00:00.000Z');
    expect(
      valueAt(
        ticksOf(3, (share) => share * 10),
        333 / 2,
        { kind: 'integer', bits: 32 },
      ),
    ).toBe(3);
  });

  it('is that of the tick before elsewhere', () => {
    const names = ticksOf(4, (share) => `n${share.toFixed(1)}`);
    expect(valueAt(names, 260, text)).toBe('n0.3');
    expect(valueAt(names, 0, text)).toBe('n0.0');
    expect(valueAt([], 5, text)).toBeUndefined();
    const gap = [
      { offset: 0, value: '5' },
      { offset: 100, value: null },
    ];
    expect(valueAt(gap, 50, numeric)).toBe('5');
    expect(valueAt(gap, 150, numeric)).toBeNull();
  });
});

describe('the way to a window', () => {
  it('is the one that passes over the fewest rows', () => {
    expect(approach(5_000, 100, {})).toEqual({ from: 'start', skip: 5_000, limit: 100 });
    expect(approach(5_321, 100, { milepost: 5_000, total: 10_000 })).toEqual({
      from: 'milepost',
      skip: 321,
      limit: 100,
    });
    expect(approach(9_850, 100, { milepost: 9_000, total: 10_000 })).toEqual({
      from: 'end',
      skip: 50,
      limit: 100,
    });
    expect(approach(9_980, 100, { total: 10_000 })).toEqual({ from: 'end', skip: 0, limit: 20 });
    expect(approach(10_000, 100, { total: 10_000, milepost: 9_000 })).toMatchObject({
      from: 'milepost',
    });
  });

  it('leads to the same rows whichever it is', () => {
    const place = fc.record({ offset: fc.nat(300), limit: fc.integer({ min: 1, max: 50 }) });
    fc.assert(
      fc.property(place, fc.nat(300), fc.nat(300), ({ offset, limit }, total, milepost) => {
        const way = approach(offset, limit, { total, milepost });
        const first =
          way.from === 'end'
            ? total - way.skip - way.limit
            : (way.from === 'milepost' ? milepost : 0) + way.skip;
        expect(first).toBe(offset);
        if (way.from === 'end') expect(first + way.limit).toBe(Math.min(total, offset + limit));
      }),
    );
  });
});
