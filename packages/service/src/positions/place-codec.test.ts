import fc from 'fast-check';
import { readKey, widthOf, writeKey, type PlaceKind } from './place-codec.ts';

/** Texts of a kind, as PostgreSQL writes them. */
const texts: Readonly<Record<PlaceKind, fc.Arbitrary<string>>> = {
  int16: fc.integer({ min: -32_768, max: 32_767 }).map(String),
  int32: fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }).map(String),
  int64: fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String),
  uuid: fc.uuid(),
  date: fc
    .date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
    .map((date) => date.toISOString().slice(0, 10)),
  timestamp: moments(''),
  timestamptz: moments('+00'),
};

function moments(zone: string): fc.Arbitrary<string> {
  const dates = fc.date({
    min: new Date('0001-01-01'),
    max: new Date('9999-12-31'),
    noInvalidDate: true,
  });
  return fc.tuple(dates, fc.integer({ min: 0, max: 999_999 })).map(([date, micros]) => {
    const second = date.toISOString().slice(0, 19).replace('T', ' ');
    const fraction = micros === 0 ? '' : `.${String(micros).padStart(6, '0').replace(/0+$/, '')}`;
    return `${second}${fraction}${zone}`;
  });
}

const kinds = Object.keys(texts) as PlaceKind[];

describe('keys in places', () => {
  it('come back as they were written', () => {
    const keys = fc
      .array(fc.constantFrom(...kinds), { minLength: 1, maxLength: 4 })
      .chain((some) => fc.tuple(fc.constant(some), fc.tuple(...some.map((kind) => texts[kind]))));
    fc.assert(
      fc.property(keys, ([some, key]) => {
        const room = Buffer.alloc(widthOf(some) + 3);
        expect(writeKey(some, key, room, 3)).toBe(true);
        expect(readKey(some, room, 3)).toEqual(key);
      }),
    );
  });

  it.each<[PlaceKind, string]>([
    ['date', 'infinity'],
    ['date', '0044-03-15 BC'],
    ['timestamp', '-infinity'],
    ['timestamptz', '10000-01-01 00:00:00+00'],
  ])('have no room for a %s of %s', (kind, text) => {
    expect(writeKey([kind], [text], Buffer.alloc(8), 0)).toBe(false);
    expect(writeKey([kind], [null], Buffer.alloc(8), 0)).toBe(false);
  });
});
