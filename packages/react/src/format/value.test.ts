import { encodingOf, type ResultColumn, type ColumnType } from '@ephoros/core/schema';
import type { Value } from '@ephoros/client';
import { arabic } from '../messages/arabic.ts';
import { formatText, formatValue } from './value.ts';

const reader = { locale: 'en-GB', timeZone: 'Europe/Paris' };

function column(type: ColumnType, format?: ResultColumn['format'], name = 'x'): ResultColumn {
  return {
    name,
    label: 'X',
    type,
    encoding: encodingOf(type),
    ...(format === undefined ? {} : { format }),
  };
}

describe('a value as people read it', () => {
  it.each<[Value, ResultColumn, object]>([
    [null, column({ kind: 'text' }), { text: 'null', kind: 'null' }],
    ['', column({ kind: 'text' }), { text: 'empty', kind: 'empty' }],
    ['null', column({ kind: 'text' }), { text: 'null', kind: 'text' }],
    ...(
      [
        [111, 'minutes', '1h 51m'],
        [0, 'minutes', '0m'],
        [90_061.5, 'seconds', '1d 1h 1m 1.5s'],
        ['-2.5', 'hours', '-2h 30m'],
        ['NaN', 'days', 'NaN'],
      ] as const
    ).map(([value, unit, text]): [Value, ResultColumn, object] => [
      value,
      column({ kind: 'float', bits: 64 }, { kind: 'duration', unit }),
      { text, kind: 'number', ...(value === 'NaN' ? {} : { exact: `${value} ${unit}` }) },
    ]),
    [true, column({ kind: 'boolean' }), { text: 'yes', kind: 'yes' }],
    [false, column({ kind: 'boolean' }), { text: 'no', kind: 'no' }],
    [1234567, column({ kind: 'integer', bits: 32 }), { text: '1,234,567', kind: 'number' }],
    [
      1234567,
      column({ kind: 'integer', bits: 32 }, { kind: 'identifier' }),
      { text: '1234567', kind: 'number' },
    ],
    [
      '12345678901234567890.10',
      column({ kind: 'numeric' }),
      { text: '12,345,678,901,234,567,890.10', kind: 'number' },
    ],
    [
      '12.5',
      column({ kind: 'numeric' }, { kind: 'money', currency: 'ƒ', decimals: 2 }),
      { text: 'ƒ 12.50', kind: 'number' },
    ],
    [
      '12.345',
      column({ kind: 'numeric' }, { kind: 'number', decimals: 1, unit: 'm' }),
      { text: '12.3 m', kind: 'number', exact: '12.345' },
    ],
    ['0.25', column({ kind: 'numeric' }, { kind: 'percent', decimals: 0 }), { text: '25%' }],
    ['NaN', column({ kind: 'float', bits: 64 }), { text: 'NaN', kind: 'number' }],
    [
      '2024-07-01T22:30:00Z',
      column({ kind: 'timestamp', zone: true }),
      { text: '2 Jul 2024, 00:30', exact: '2024-07-01T22:30:00Z' },
    ],
    [
      '2024-07-01T22:30:00',
      column({ kind: 'timestamp', zone: false }),
      { text: '1 Jul 2024, 22:30' },
    ],
    ['2024-02-29', column({ kind: 'date' }), { text: '29 Feb 2024', exact: '2024-02-29' }],
    ['infinity', column({ kind: 'timestamp', zone: true }), { text: 'infinity', kind: 'text' }],
    [
      'PT1H51M15S',
      column({ kind: 'interval' }),
      { text: '1h 51m 15s', kind: 'number', exact: 'PT1H51M15S' },
    ],
    [
      ['a', null],
      column({ kind: 'array', element: { kind: 'text' } }),
      { text: 'a, null', exact: '["a",null]' },
    ],
    ['/a.svg', column({ kind: 'text' }, { kind: 'picture' }), { kind: 'picture' }],
  ])('%j', (value, described, expected) => {
    const formatted = formatValue(value, described, reader);
    // Narrow no-break and plain blanks differ between releases of the locale data.
    expect({ ...formatted, text: formatted.text.replace(/\s/g, ' ') }).toMatchObject(expected);
  });

  it('is called as its column says, and stays what it is', () => {
    const valueLabels = { disputed: 'In dispute', true: 'by itself', 3: 'third' };
    const status = column({ kind: 'enum', name: 'status', values: ['disputed'] });
    expect(formatValue('disputed', { ...status, valueLabels }, reader)).toEqual({
      text: 'In dispute',
      kind: 'text',
      exact: 'disputed',
    });
    const badge = { ...status, valueLabels, format: { kind: 'badge' as const } };
    expect(formatValue('disputed', badge, reader).kind).toBe('badge');
    expect(formatValue('toString', { ...status, valueLabels }, reader).text).toBe('toString');
    expect(formatText(true, { ...column({ kind: 'boolean' }), valueLabels }, reader)).toBe(
      'by itself',
    );
    expect(formatText(3, { ...column({ kind: 'integer', bits: 32 }), valueLabels }, reader)).toBe(
      'third',
    );
    expect(formatText(null, { ...status, valueLabels }, reader)).toBe('null');
  });

  it('that is no text is called by the messages of the table', () => {
    const texts = [null, true, false, '', []].map(
      (value) => formatValue(value, column({ kind: 'text' }), { ...reader, messages: arabic }).text,
    );
    expect(texts).toEqual(['لا قيمة', 'نعم', 'لا', 'فارغ', 'قائمة فارغة']);
  });
});
