import { microseconds, momentsBetween, printMoment } from './index.ts';

describe('moments', () => {
  it.each([
    ['2024-02-29 10:15:00.5+00', '2024-02-29T10:15:00.5'],
    ['2024-02-29T10:15:00+02:00', '2024-02-29T08:15:00'],
    ['1969-12-31 23:59:59.999999+00', '1969-12-31T23:59:59.999999'],
    ['1924-02-29', '1924-02-29T00:00:00'],
    ['0001-01-01', '0001-01-01T00:00:00'],
  ])('%s is kept to the microsecond', (text, written) => {
    expect(printMoment(microseconds(text))).toBe(written);
  });

  it.each(['0044-03-15 BC', '12024-01-01', 'infinity'])('%s has no spelling', (text) => {
    expect(printMoment(microseconds(text))).toBeUndefined();
  });

  it('lie at even distances, days at the first that is not before', () => {
    expect(momentsBetween('1969-12-31', '1970-01-05', 2, true)).toEqual([
      '1969-12-31',
      '1970-01-03',
      '1970-01-05',
    ]);
    expect(momentsBetween('2024-01-01', '2024-01-06', 2, true)[1]).toBe('2024-01-04');
    expect(
      momentsBetween('1969-12-31 23:59:59.999999+00', '1970-01-01 00:00:00.000001+00', 2, false),
    ).toEqual(['1969-12-31T23:59:59.999999', '1970-01-01T00:00:00', '1970-01-01T00:00:00.000001']);
    expect(momentsBetween('0044-03-15 BC', '2024-01-01', 2, true)[0]).toBeUndefined();
  });
});
