import { parseParameters, plainConditions } from './index.ts';

const plain = (filter: string): unknown =>
  plainConditions(parseParameters({ filter }).query.filter);

describe('the conditions of a filter, plainly', () => {
  it.each([
    ['', []],
    ['toll > 4.50', [{ column: 'toll', is: '>', value: '4.50' }]],
    ['4 >= toll', [{ column: 'toll', is: '<=', value: '4' }]],
    [
      "status IN ('a', 'b') AND NOT (note IS NULL)",
      [
        { column: 'status', is: 'oneOf', values: ['a', 'b'] },
        { column: 'note', is: 'not', condition: { column: 'note', is: 'missing' } },
      ],
    ],
    [
      "passed_at BETWEEN DATE('2024-01-01') AND TIMESTAMP('2024-02-01T00:00:00Z')",
      [{ column: 'passed_at', is: 'between', low: '2024-01-01', high: '2024-02-01T00:00:00Z' }],
    ],
    [
      "CASEI(note) LIKE CASEI('%50\\%%') AND name LIKE 'A%' AND clear AND NOT closed",
      [
        { column: 'note', is: 'contains', value: '50%' },
        { column: 'name', is: 'like', value: 'A%' },
        { column: 'clear', is: '=', value: true },
        {
          column: 'closed',
          is: 'not',
          condition: { column: 'closed', is: '=', value: true },
        },
      ],
    ],
  ])('%s', (filter, expected) => {
    expect(plain(filter)).toEqual(expected);
  });

  it.each(['a = 1 OR b = 2', 'a = b', 'a + 1 > 2', "CASEI(a) = 'x'", 'month(d) = 3', 'a IN (b)'])(
    'are not all that %s says',
    (filter) => {
      expect(plain(filter)).toBeUndefined();
    },
  );
});
