import { checkQuery } from '@ephoros/core/check';
import { parseParameters, type QueryParameter } from '@ephoros/core/query';
import { passages } from '../../../core/src/testing/passages.ts';
import { isRangeOfOrder } from './orders.ts';

const isRange = (parameters: Partial<Record<QueryParameter, string>>): boolean => {
  const read = checkQuery(parseParameters(parameters).query, passages, { tables: () => undefined });
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return isRangeOfOrder(read.checked);
};

describe('a condition that is a range of the order', () => {
  it.each([
    ['id > 369967', 'id'],
    ['id > 369967', '-id'],
    ['10 < id AND id <= 20', 'id'],
    ['id BETWEEN 10 AND 20', 'id'],
    ['id = 7', 'id'],
    ['toll >= 100', 'toll,id'],
  ])('is %s, sorted by %s', (filter, sort) => {
    expect(isRange({ filter, sort })).toBe(true);
  });

  it.each<[string, Partial<Record<QueryParameter, string>>]>([
    ['another column', { filter: 'toll > 3', sort: 'id' }],
    ['another column as well', { filter: "id > 3 AND note LIKE '%weir%'", sort: 'id' }],
    ['any of two ranges', { filter: 'id < 3 OR id > 9', sort: 'id' }],
    ['what is left out', { filter: 'NOT (id < 3)', sort: 'id' }],
    ['all but one', { filter: 'id <> 3', sort: 'id' }],
    ['what is computed', { filter: 'id + 1 > 3', sort: 'id' }],
    ['a search as well', { filter: 'id > 3', search: 'weir', sort: 'id' }],
    ['nothing', { sort: 'id' }],
  ])('is not %s', (_what, parameters) => {
    expect(isRange(parameters)).toBe(false);
  });
});
