import fc from 'fast-check';
import Papa from 'papaparse';
import { CsvLines } from './csv-lines.ts';
import { TextRows } from './text-rows.ts';

const value = fc.oneof(
  fc.constantFrom('', '\\', '\\N', '\\.', '"', '\n', '\r\n', '\t', ',', 'é', '🛶', 'שער'),
  fc.string(),
);

/** The same bytes in pieces that are cut anywhere, also within a character. */
function pieces(bytes: Buffer, cuts: readonly number[]): Buffer[] {
  const places = [...new Set(cuts.map((cut) => cut % (bytes.length + 1)))].sort((a, b) => a - b);
  return [...places, bytes.length].map((end, index) =>
    bytes.subarray(index === 0 ? 0 : places[index - 1], end),
  );
}

const cuts = fc.array(fc.nat({ max: 100_000 }), { maxLength: 12 });

describe('a file that comes in pieces', () => {
  it('has its CSV records counted and ended as is wanted, its values untouched', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(value, value)), cuts, (rows, places) => {
        const text = Papa.unparse(rows, { quotes: true, newline: '\n' });
        const whole = Buffer.from(rows.length === 0 ? '' : `${text}\n`);
        const lines = new CsvLines(true);
        const made = Buffer.concat(
          pieces(whole, places).map((piece) => Buffer.from(lines.take(piece))),
        );
        expect(lines.count).toBe(rows.length);
        const read = Papa.parse<string[]>(made.toString(), {
          newline: '\r\n',
          delimiter: ',',
        }).data;
        expect(read.slice(0, -1)).toEqual(rows);
        const plain = new CsvLines(false);
        expect(Buffer.concat(pieces(whole, places).map((one) => plain.take(one)))).toEqual(whole);
        expect(plain.count).toBe(rows.length);
      }),
    );
  });

  it('has its rows read as PostgreSQL has written them', () => {
    const escaped = (text: string | null): string =>
      text === null
        ? '\\N'
        : text
            .replaceAll('\\', '\\\\')
            .replaceAll('\n', '\\n')
            .replaceAll('\r', '\\r')
            .replaceAll('\t', '\\t');
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.option(value), fc.option(value))), cuts, (rows, places) => {
        const whole = Buffer.from(rows.map((row) => `${row.map(escaped).join('\t')}\n`).join(''));
        const reader = new TextRows();
        expect(pieces(whole, places).flatMap((piece) => reader.take(piece))).toEqual(rows);
      }),
    );
  });
});
