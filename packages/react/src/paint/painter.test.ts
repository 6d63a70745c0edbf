import { plainTable } from '../../../core/src/testing/tables.ts';
import { plainColumn, type ColumnDescription } from '@ephoros/core/schema';
import { readPaint } from '@ephoros/core/view';
import { painterOf, unfitReason, type Ends } from './painter.ts';

const columns = [
  plainColumn('id', { kind: 'integer', bits: 32 }),
  plainColumn('fee', { kind: 'numeric' }, { nullable: true }),
  plainColumn('name', { kind: 'text' }),
  plainColumn('opened', { kind: 'timestamp', zone: true }),
];
const related = plainColumn('quay.name', { kind: 'text' });
const table = plainTable('berths', columns, {
  relationships: [
    { name: 'quay', kind: 'one', table: 'quays', columns: ['id'], references: ['id'] },
  ],
});
const column = (name: string): ColumnDescription | undefined =>
  [...columns, related].find((one) => one.name === name);

function painter(
  written: readonly object[],
  ends: (name: string) => Ends | undefined = () => undefined,
): ReturnType<typeof painterOf> {
  const { rules, problems } = readPaint(written);
  expect(problems).toEqual([]);
  return painterOf({ rules, table, column, ends });
}

const row = { id: 1, fee: '12.50', name: 'Étang', opened: '2024-05-01T10:00:00Z' };

describe('rules for tones', () => {
  it('paint rows and cells by what the row itself says, the first that holds before others', () => {
    const { row: toneOf, cell } = painter([
      { when: 'fee > 100', tone: 'fault' },
      { when: "name LIKE 'É%' AND opened >= TIMESTAMP('2024-01-01T00:00:00Z')", tone: 'good' },
      { when: 'fee > 10', tone: 'warn' },
      { when: 'fee IS NULL', tone: 'calm', column: 'fee' },
    ]);
    expect(toneOf?.(row)).toBe('good');
    expect(toneOf?.({ ...row, name: 'Alder' })).toBe('warn');
    expect(toneOf?.({ ...row, fee: '100.01' })).toBe('fault');
    expect(toneOf?.({ ...row, name: 'Alder', fee: '9' })).toBeUndefined();
    expect(cell('fee')?.(null, { ...row, fee: null })).toEqual({ tone: 'calm' });
    expect(cell('fee')?.('12.50', row)).toBeUndefined();
    expect(cell('name')).toBeUndefined();
  });

  it('take what is unknown for no', () => {
    const { row: toneOf } = painter([{ when: 'NOT (fee > 10)', tone: 'note' }]);
    expect(toneOf?.({ ...row, fee: null })).toBeUndefined();
    expect(toneOf?.({ ...row, fee: '3' })).toBe('note');
  });

  it('compare decimals digit by digit', () => {
    const digits = '0.1234567890123456789';
    const { row: toneOf } = painter([{ when: `fee > ${digits}`, tone: 'note' }]);
    expect(toneOf?.({ ...row, fee: digits })).toBeUndefined();
    expect(toneOf?.({ ...row, fee: `${digits}1` })).toBe('note');
  });

  it('read related columns from the row that holds them', () => {
    const { row: toneOf } = painter([{ when: "quay.name = 'North'", tone: 'note' }]);
    expect(toneOf?.({ ...row, 'quay.name': 'North' })).toBe('note');
    expect(toneOf?.({ ...row, 'quay.name': 'South' })).toBeUndefined();
  });

  it('paint nothing where they ask of other rows or cannot be checked', () => {
    const { row: toneOf } = painter([
      { when: 'HAS(passages)', tone: 'note' },
      { when: 'gone = 1', tone: 'note' },
      { when: "fee = 'much'", tone: 'note' },
    ]);
    expect(toneOf).toBeUndefined();
  });
});

describe('bars and scales', () => {
  const ends = (): Ends => ({ least: 5, greatest: 25 });

  it.each([
    [{ bar: 'fee' }, '12.50', { bar: 0.5 }],
    [{ bar: 'fee', from: 0, to: 10 }, '12.50', { bar: 1 }],
    [{ bar: 'fee', from: 20 }, '12.50', { bar: 0 }],
    [{ scale: 'fee' }, '15', { scale: 0.5 }],
    [{ scale: 'fee', to: 5 }, '5', { scale: 1 }],
    [{ scale: 'fee' }, null, undefined],
    [{ scale: 'fee' }, 'NaN', undefined],
  ])('%j of %s', (rule, value, paint) => {
    expect(painter([rule], ends).cell('fee')?.(value, row)).toEqual(paint);
  });

  it('reach below zero where values do', () => {
    const { cell } = painter([{ bar: 'fee' }], () => ({ least: -10, greatest: 10 }));
    expect(cell('fee')?.('0', row)).toEqual({ bar: 0.5 });
  });

  it('wait for what is shown, and stand next to a tone', () => {
    expect(painter([{ bar: 'fee' }]).cell('fee')?.('3', row)).toBeUndefined();
    const both = painter([{ bar: 'fee' }, { when: 'id = 1', tone: 'good', column: 'fee' }], ends);
    expect(both.cell('fee')?.('25', row)).toEqual({ tone: 'good', bar: 1 });
  });

  it('are of numbers alone', () => {
    expect(painter([{ bar: 'name' }], ends).cell('name')).toBeUndefined();
  });
});

describe('a rule that does not fit', () => {
  const reason = (written: object): unknown => {
    const [rule] = readPaint([written]).rules;
    return unfitReason(rule!, table, column);
  };

  it.each([
    [{ bar: 'gone' }, 'unknown'],
    [{ bar: 'name' }, 'no-number'],
    [{ when: 'fee > 1', tone: 'note', column: 'gone' }, 'unknown'],
    [{ when: 'COUNT(passages) > 3', tone: 'note' }, 'other-rows'],
    [{ when: "quay.gone = 'x'", tone: 'note' }, 'unknown'],
    [{ when: 'fee > 1', tone: 'note' }, undefined],
    [{ scale: 'fee' }, undefined],
  ])('says why: %j', (written, message) => {
    expect(reason(written)).toBe(message);
  });

  it('says what is wrong with its condition', () => {
    expect(reason({ when: "fee = 'much'", tone: 'note' })).toEqual({
      message: expect.stringContaining('number') as string,
    });
  });
});
