import fc from 'fast-check';
import { printExpression } from '../expression/index.ts';
import { plainColumn, type ColumnDescription, type ColumnType } from '../schema/index.ts';
import { operatorsOf, readColumnTerm, valuesTaken, writeColumnTerm } from './index.ts';

const types: readonly ColumnType[] = [
  { kind: 'text' },
  { kind: 'integer', bits: 32 },
  { kind: 'numeric' },
  { kind: 'boolean' },
  { kind: 'date' },
  { kind: 'uuid' },
  { kind: 'enum', name: 'way', values: ['up', 'down'] },
];

const valueOf: Readonly<Record<string, fc.Arbitrary<string>>> = {
  text: fc.constantFrom('heron', '50%', 'a_b', 'back\\slash', "it's", 'Étang'),
  integer: fc.integer().map(String),
  numeric: fc.constantFrom('12.50', '-3', '1e6'),
  boolean: fc.constantFrom('true', 'false'),
  date: fc.constantFrom('2024-02-29', '1999-12-31'),
  uuid: fc.uuid(),
  enum: fc.constantFrom('up', 'down'),
};

const terms = fc.constantFrom(...types).chain((type) => {
  const column = plainColumn('c', type, { nullable: true });
  return fc.constantFrom(...operatorsOf(column)).chain((operator) => {
    const count = valuesTaken(operator);
    const value = valueOf[type.kind]!;
    const values = fc.array(value, {
      minLength: count ?? 1,
      maxLength: count ?? 4,
    });
    return values.map((all) => ({ column, term: { column: 'c', operator, values: all } }));
  });
});

const moment: ColumnDescription = plainColumn('at', { kind: 'timestamp', zone: true });

describe('a condition on one column', () => {
  it('says the same again when it is read, by every operator of every type', () => {
    fc.assert(
      fc.property(terms, ({ column, term }) => {
        const written = writeColumnTerm(term, column)!;
        expect(readColumnTerm(written, () => column)).toEqual(term);
      }),
      { numRuns: 500 },
    );
  });

  it.each([
    ['equals', ['2024-05-01'], 'equals', ['2024-05-01']],
    ['between', ['2024-05-01', '2024-05-03'], 'between', ['2024-05-01', '2024-05-03']],
    ['atLeast', ['2024-05-01'], 'atLeast', ['2024-05-01']],
    ['atMost', ['2024-05-01'], 'atMost', ['2024-05-01']],
    // Later than a day is from the next one on.
    ['more', ['2024-05-01'], 'atLeast', ['2024-05-02']],
    ['less', ['2024-05-02'], 'atMost', ['2024-05-01']],
  ] as const)('means whole days of a reader: %s %j', (operator, values, read, days) => {
    const zone = 'Europe/Paris';
    const written = writeColumnTerm({ column: 'at', operator, values }, moment, zone)!;
    expect(readColumnTerm(written, () => moment, zone)).toEqual({
      column: 'at',
      operator: read,
      values: days,
    });
  });

  it('says nothing without its values; the empty text is one', () => {
    const text = plainColumn('c', { kind: 'text' });
    const number = plainColumn('c', { kind: 'numeric' });
    const write = (column: ColumnDescription, operator: 'equals' | 'between' | 'oneOf'): unknown =>
      writeColumnTerm({ column: 'c', operator, values: [] }, column);
    expect(write(number, 'equals')).toBeUndefined();
    expect(write(number, 'between')).toBeUndefined();
    expect(write(text, 'oneOf')).toBeUndefined();
    const empty = writeColumnTerm({ column: 'c', operator: 'equals', values: [''] }, text);
    expect(empty && printExpression(empty)).toBe("c = ''");
  });

  it('is none where columns or functions are compared', () => {
    const column = plainColumn('c', { kind: 'numeric' });
    const other = plainColumn('d', { kind: 'numeric' });
    const both = {
      kind: 'comparison' as const,
      comparator: '<' as const,
      left: { kind: 'property' as const, name: 'c', span: { start: 0, end: 0 } },
      right: { kind: 'property' as const, name: 'd', span: { start: 0, end: 0 } },
      span: { start: 0, end: 0 },
    };
    expect(readColumnTerm(both, (name) => (name === 'c' ? column : other))).toBeUndefined();
  });
});
