import fc from 'fast-check';
import { CopiedKeys } from './copied-keys.ts';
import { readKey, widthOf, writeKey, type PlaceKind } from './place-codec.ts';

const kinds: readonly PlaceKind[] = ['int32', 'int64', 'date'];
const header = Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);
const end = Buffer.from([0xff, 0xff]);

/** A row as COPY writes it. */
function rowOf(...fields: readonly (Buffer | null)[]): Buffer {
  const parts = fields.map((field) => {
    const length = Buffer.alloc(4);
    length.writeInt32BE(field?.length ?? -1);
    return field === null ? length : Buffer.concat([length, field]);
  });
  const count = Buffer.alloc(2);
  count.writeInt16BE(fields.length);
  return Buffer.concat([count, ...parts]);
}

function fieldOf(kind: PlaceKind, text: string): Buffer {
  const field = Buffer.alloc(widthOf([kind]));
  writeKey([kind], [text], field, 0);
  return field;
}

const key = fc.tuple(
  fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }).map(String),
  fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String),
  fc.constantFrom('0001-01-01', '1999-12-31', '2024-02-29', '9999-12-31'),
);

describe('keys that the database writes out', () => {
  it('are read whatever pieces they come in', () => {
    fc.assert(
      fc.property(
        fc.array(key, { maxLength: 20 }),
        fc.integer({ min: 1, max: 60 }),
        (keys, size) => {
          const rows = keys.map((texts) =>
            rowOf(...kinds.map((kind, index) => fieldOf(kind, texts[index] ?? ''))),
          );
          const bytes = Buffer.concat([header, ...rows, end]);
          const reader = new CopiedKeys(kinds);
          const found: string[][] = [];
          for (let at = 0; at < bytes.length; at += size) {
            expect(reader.isEnded).toBe(false);
            const entries = reader.read(bytes.subarray(at, at + size)) ?? Buffer.alloc(0);
            for (let place = 0; place < entries.length; place += widthOf(kinds)) {
              found.push([...readKey(kinds, entries, place)]);
            }
          }
          expect(found).toEqual(keys);
          expect(reader.isEnded).toBe(true);
        },
      ),
    );
  });

  it('are refused where a value has no room: null, another length, what is no date of four digits', () => {
    const date = (days: number): Buffer => {
      const field = Buffer.alloc(4);
      field.writeInt32BE(days);
      return field;
    };
    const read = (field: Buffer | null): Buffer | undefined =>
      new CopiedKeys(['date']).read(Buffer.concat([header, rowOf(field), rowOf(date(1)), end]));
    expect(read(date(0))).toHaveLength(8);
    expect(read(null)).toBeUndefined();
    expect(read(Buffer.alloc(2))).toBeUndefined();
    // 0001-01-01 BC, 10000-01-01, and both infinities.
    for (const days of [-730_120, 2_921_940, 2 ** 31 - 1, -(2 ** 31)]) {
      expect(read(date(days))).toBeUndefined();
    }
  });
});
