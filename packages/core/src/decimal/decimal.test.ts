import {
  binOf,
  decimal,
  divideExactly,
  edgesBetween,
  floorTo,
  printDecimal,
  trimmed,
} from './index.ts';

describe('exact decimals', () => {
  it.each([
    ['7', '2.5', '5'],
    ['-7', '2.5', '-7.5'],
    ['100', '50', '100'],
    ['149.999999999999999999999', '50', '100'],
    ['-0.01', '50', '-50'],
    ['0.07', '0.01', '0.07'],
    ['9223372036854775807', '10', '9223372036854775800'],
    ['NaN', '5', 'NaN'],
  ])('%s lies in the bin of %s that begins at %s', (value, width, begin) => {
    expect(printDecimal(floorTo(decimal(value), decimal(width)))).toBe(begin);
  });

  it.each([
    ['12.340', '12.34'],
    ['100', '100'],
    ['-0.500', '-0.5'],
    ['0.000', '0'],
  ])('%s without zeros at its end is %s', (value, expected) => {
    expect(printDecimal(trimmed(decimal(value)))).toBe(expected);
  });

  it.each(['0', '-0.05', '12345678901234567890.01', 'NaN', '-Infinity', '1000.10'])(
    '%s is written as it was read',
    (text) => expect(printDecimal(decimal(text))).toBe(text),
  );

  it('are divided with as many digits as PostgreSQL gives', () => {
    const quotient = (a: string, b: string): string =>
      printDecimal(divideExactly(decimal(a), decimal(b)));
    expect(quotient('10', '3')).toBe('3.3333333333333333');
    expect(quotient('2', '30000')).toBe('0.000066666666666666666667');
    expect(quotient('123456789.12', '7')).toBe('17636684.160000000000');
    expect(quotient('1', '0')).toBe('NaN');
  });
});

describe('bins of a histogram', () => {
  it('begin at even distances, at the ends themselves first and last', () => {
    expect(edgesBetween('4.00', '184.00', 4)).toEqual(['4.00', '49', '94', '139', '184.00']);
    expect(edgesBetween('-1', '1', 3).map(Number)).toEqual([
      -1,
      expect.closeTo(-1 / 3, 10),
      expect.closeTo(1 / 3, 10),
      1,
    ]);
    expect(edgesBetween('5', '5', 1)).toEqual(['5', '5']);
  });

  it('hold their beginning and not their end, the last one both', () => {
    const bin = (value: string): number => binOf(decimal(value), decimal('0'), decimal('3'), 3);
    expect(['0', '0.999', '1', '2.999999999999999999999', '3'].map(bin)).toEqual([0, 0, 1, 2, 2]);
  });
});
