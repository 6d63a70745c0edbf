import { parseParameters } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import { formatAlike } from '../format/alike.ts';
import { english } from '../messages/english.ts';
import { groupValue } from './group-value.ts';

const reader = { locale: 'en', timeZone: 'UTC', messages: english };
const toll: ResultColumn = {
  name: 'toll',
  label: 'Toll',
  type: { kind: 'numeric' },
  encoding: 'string',
};

function binned(value: string, width: string, level: Partial<ResultColumn> = {}): string {
  const { query } = parseParameters({ group: `bin(toll,${width})` });
  return groupValue(value, { ...toll, ...level }, query.group?.[0]?.expression, reader).text;
}

describe('the edges of a bin', () => {
  it.each([
    ['4.00', '30', '4 – 34'],
    ['4.00', '0.5', '4.0 – 4.5'],
    ['-0.50', '0.25', '-0.50 – -0.25'],
    ['-30', '30', '-30 – 0'],
    ['0', '0.1', '0.0 – 0.1'],
    ['9007199254740993', '10', '9,007,199,254,740,993 – 9,007,199,254,741,003'],
    ['NaN', '10', 'NaN'],
  ])('are written alike: %s and %s more', (value, width, expected) => {
    expect(binned(value, width)).toBe(expected);
  });

  it('are written as their column is, where that says how', () => {
    const format = { kind: 'money', currency: 'ƒ', decimals: 2 } as const;
    expect(binned('4', '30', { format })).toBe('ƒ 4.00 – ƒ 34.00');
    const bare = { kind: 'money', currency: 'ƒ' } as const;
    expect(binned('4.00', '0.5', { format: bare })).toBe('ƒ 4.0 – ƒ 4.5');
  });

  it('are many, or no numbers at all', () => {
    expect(formatAlike(['4.00', '34', '64.5'], toll, reader)).toEqual(['4.0', '34.0', '64.5']);
    expect(formatAlike([1, 2.25], { ...toll, type: { kind: 'float', bits: 64 } }, reader)).toEqual([
      '1.00',
      '2.25',
    ]);
    const day: ResultColumn = { ...toll, type: { kind: 'date' } };
    expect(formatAlike(['2024-02-29', null], day, reader)).toEqual(['Feb 29, 2024', 'null']);
    expect(formatAlike(['1e400', '2'], toll, reader)[1]).toBe('2');
  });
});
