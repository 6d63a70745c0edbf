import { sizeText } from './size-text.ts';

it.each([
  [0, '0 bytes'],
  [999, '999 bytes'],
  [1_000, '1 kB'],
  [9_940, '9.9 kB'],
  [12_400, '12 kB'],
  [3_170_000, '3.2 MB'],
  [999_400_000, '999 MB'],
  [4_200_000_000, '4.2 GB'],
  [7e15, '7,000 TB'],
])('%i bytes are said as %s', (bytes, text) => {
  expect(sizeText(bytes, 'en')).toBe(text);
});

it('is written as its reader writes numbers', () => {
  expect(sizeText(3_170_000, 'de')).toBe('3,2 MB');
  expect(sizeText(12_400, 'ar-EG')).toMatch(/[\u0660-\u0669]/);
});
