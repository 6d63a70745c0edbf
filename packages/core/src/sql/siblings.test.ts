import { checkQuery, type CheckedQuery } from '../check/index.ts';
import { parseParameters } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import { siblingOf } from './index.ts';

function check(filter: string, sort = '-passed_at'): CheckedQuery {
  const { query } = parseParameters({ ...(filter === '' ? {} : { filter }), sort });
  const read = checkQuery(query, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return read.checked;
}

/** By which columns a query stands among others, its own values, and what it asks for in addition. */
function siblings(filter: string): unknown {
  const found = siblingOf(check(filter));
  return (
    found && [
      found.by.map(({ name }) => name),
      found.values,
      found.all.filter?.kind === 'and' ? found.all.filter.operands.length : 0,
    ]
  );
}

describe('queries that differ in the values of some columns', () => {
  it.each([
    ["status = 'disputed'", [['status'], ['disputed'], 0]],
    [
      "status = 'disputed' AND lock_id = 7 AND toll > 3",
      [['lock_id', 'status'], ['7', 'disputed'], 1],
    ],
    [
      "(toll > 3 AND (lock_id = 7)) AND status = 'disputed'",
      [['lock_id', 'status'], ['7', 'disputed'], 1],
    ],
    ['status IS NULL', [['status'], [null], 0]],
    // Held to two values at once: the second one is a condition like others.
    ['lock_id = 7 AND lock_id = 8', [['lock_id'], ['7'], 1]],
  ])('are reported for %s', (filter, reported) => {
    expect(siblings(filter)).toEqual(reported);
  });

  it.each([
    '',
    'lock_id > 7',
    "status = 'disputed' OR lock_id = 7",
    'lock_id IN (7, 8)',
    // Written in more than one way: 2.5 and 2.50 are the same.
    'toll = 2.5',
  ])('are none of %p', (filter) => {
    expect(siblings(filter)).toBeUndefined();
  });

  it('are the same whatever order the conditions have, and stand one behind the other in their order', () => {
    const one = siblingOf(check("status = 'disputed' AND lock_id = 7"));
    const other = siblingOf(check("lock_id = 9 AND status = 'passed'"));
    expect(one?.all).toEqual(other?.all);
    expect(one?.all.sort.map(({ column, descending }) => [column.name, descending])).toEqual([
      ['lock_id', false],
      ['status', false],
      ['passed_at', true],
      ['id', true],
    ]);
  });
});
