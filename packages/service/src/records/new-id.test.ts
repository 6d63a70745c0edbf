import { newId } from './new-id.ts';

it('begins with no hyphen, and is another one each time', () => {
  const ids = Array.from({ length: 5_000 }, () => newId());
  expect(ids.filter((id) => !/^[A-Za-z0-9][\w-]{21}$/.test(id))).toEqual([]);
  expect(new Set(ids).size).toBe(ids.length);
  expect(newId(9)).toHaveLength(12);
});
