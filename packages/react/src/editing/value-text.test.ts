import { printAnswer } from '@ephoros/core/answer';
import { plainColumn, type ColumnType } from '@ephoros/core/schema';
import { textToEdit, valueTyped } from './value-text.ts';

const list = (element: ColumnType): ColumnType => ({ kind: 'array', element });

it.each<[ColumnType, string, string]>([
  [{ kind: 'json' }, '{"a": 12345678901234567890.50}', '{"a": 12345678901234567890.50}'],
  [{ kind: 'json' }, '{"a": [1.5, "12345678901234567890"]}', '{"a":[1.5,"12345678901234567890"]}'],
  [{ kind: 'json' }, '1e400', '1e400'],
  [list({ kind: 'integer', bits: 64 }), '[9007199254740993, 1]', '["9007199254740993",1]'],
  [list({ kind: 'numeric' }), '[[12345678901234567890.5]]', '[["12345678901234567890.5"]]'],
  [{ kind: 'integer', bits: 64 }, '9007199254740993', '"9007199254740993"'],
  [{ kind: 'numeric' }, '12345678901234567890.5', '"12345678901234567890.5"'],
])('a value of %j that is typed as %s has all its digits', (type, text, written) => {
  const column = plainColumn('c', type);
  const value = valueTyped(text, column, 'UTC');
  expect(printAnswer(value)).toBe(written);
  expect(valueTyped(textToEdit(value, column, 'UTC'), column, 'UTC')).toEqual(value);
});
