import { harmlessText } from './harmless.ts';

it.each([
  ['plain', 'plain'],
  ['=1+1', "'=1+1"],
  ['\n=1+1', "'\n'=1+1"],
  ['\t@SUM(A1)', "'\t'@SUM(A1)"],
  ['-5', '-5'],
  ['+1.5e3', '+1.5e3'],
  ['-5+cmd', "'-5+cmd"],
  ['＝1+1', "'＝1+1"],
  // Where a spreadsheet has another list separator, or splits at tabs.
  ['x;=1+1', "x;'=1+1"],
  ['x; =1+1;@b', "x; '=1+1;'@b"],
  ['x\t-cmd', "x\t'-cmd"],
  ['two\r\n+lines', "two\r\n'+lines"],
  ['1;-2;+3.5', '1;-2;+3.5'],
  ['x;-2;=3', "x;-2;'=3"],
  ['a, =b', 'a, =b'],
  ['a = b; c = d', 'a = b; c = d'],
])('makes %j harmless: %j', (text, harmless) => {
  expect(harmlessText(text)).toBe(harmless);
});
