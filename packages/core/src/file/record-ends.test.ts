import fc from 'fast-check';
import { fileWords, RecordEnds } from './index.ts';

const encoder = new TextEncoder();

/** Records of fields, as CSV has them where everything is quoted. */
const table = fc.array(fc.array(fc.string({ unit: fc.constantFrom('a', '"', '\n', ',', 'é') })));

const quoted = (field: string): string => `"${field.replaceAll('"', '""')}"`;

/** All ends, counted from the beginning of the file, of what comes in pieces of such lengths. */
function endsOf(bytes: Uint8Array, lengths: readonly number[], ends: RecordEnds): number[] {
  const found: number[] = [];
  let from = 0;
  for (const length of [...lengths, bytes.length]) {
    const piece = bytes.subarray(from, from + length);
    for (const end of ends.take(piece)) found.push(from + end);
    from += piece.length;
  }
  return found;
}

const lengths = fc.array(fc.nat({ max: 9 }), { maxLength: 40 });

describe('the ends of the records of a file', () => {
  it('are line feeds outside of quotes in CSV, however it comes in pieces', () => {
    fc.assert(
      fc.property(table, lengths, (records, pieces) => {
        const lines = records.map((fields) => `${fields.map(quoted).join(',')}\n`);
        const bytes = encoder.encode(lines.join(''));
        const wanted: number[] = [];
        for (const line of lines) {
          wanted.push((wanted.at(-1) ?? -1) + encoder.encode(line).length);
        }
        const ends = new RecordEnds('csv');
        expect(endsOf(bytes, pieces, ends)).toEqual(wanted);
        expect(ends.count).toBe(records.length);
      }),
    );
  });

  it('are all line feeds where a line is a record', () => {
    const ends = new RecordEnds('lines');
    expect([...ends.take(encoder.encode('{"a":"\\""}\n"\n{'))]).toEqual([10, 12]);
    expect([...ends.take(encoder.encode('}\n'))]).toEqual([1]);
    expect(ends.count).toBe(3);
  });

  it('leave a record that has not ended uncounted', () => {
    const ends = new RecordEnds('csv');
    expect([...ends.take(encoder.encode('a,"b\nc'))]).toEqual([]);
    expect(ends.count).toBe(0);
    expect([...ends.take(encoder.encode('"\r\nd'))]).toEqual([2]);
    expect(ends.count).toBe(1);
  });
});

it('the words of a file differ from each other', () => {
  for (const words of Object.values(fileWords)) expect(new Set(words).size).toBe(words.length);
});
