import { parseParameters, type QueryParameter } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import { checkQuery, type CheckedQuery } from './index.ts';

type Parameters = Partial<Record<QueryParameter, string>>;

function check(parameters: Parameters, table = passages): CheckedQuery {
  const read = checkQuery(parseParameters(parameters).query, table);
  if ('problems' in read) throw new Error(read.problems.map(({ message }) => message).join(' '));
  return read.checked;
}

function problems(parameters: Parameters): { code: string; at: string; hint?: string }[] {
  const { query, problems: first } = parseParameters(parameters);
  const read = checkQuery(query, passages);
  return [...first, ...('problems' in read ? read.problems : [])].map((one) => {
    const text = parameters[one.parameter as QueryParameter] ?? '';
    const { position = 0, length = 0, hint } = one;
    return {
      code: one.code,
      at: text.slice(position, position + length),
      ...(hint === undefined ? {} : { hint }),
    };
  });
}

describe('checking a query against a table', () => {
  it('fills in what was not requested', () => {
    const { columns, sort, limit, offset, total, shape } = check({});
    expect(columns).toHaveLength(passages.columns.length);
    expect(sort.map(({ column, descending }) => [column.name, descending])).toEqual([
      ['passed_at', true],
      ['id', true],
    ]);
    expect({ limit, offset, total, shape }).toEqual({
      limit: 50,
      offset: 0,
      total: 'exact',
      shape: 'objects',
    });
  });

  it('ends every sort with the key, once', () => {
    const names = ({ sort }: CheckedQuery): string[] =>
      sort.map(({ column, descending }) => (descending ? '-' : '') + column.name);
    expect(names(check({ sort: 'toll,-status' }))).toEqual(['toll', '-status', '-id']);
    expect(names(check({ sort: 'id,toll' }))).toEqual(['id', 'toll']);
    expect(names(check({ sort: 'toll' }, { ...passages, key: [] }))).toEqual(['toll']);
  });

  it('turns pages into offsets and caps the limit, which it reports', () => {
    expect(check({ page: '3', limit: '20' })).toMatchObject({
      offset: 40,
      limit: 20,
      capped: false,
    });
    expect(check({ offset: '7' })).toMatchObject({ offset: 7 });
    expect(check({ limit: '5000', page: '2' })).toMatchObject({
      limit: 1000,
      offset: 1000,
      capped: true,
    });
  });

  it('reports every error of every parameter at once', () => {
    const found = problems({
      columns: 'id,tol,id',
      filter: "statu = 'x' AND toll > 'high' AND status = 'dispute'",
      sort: '-pased_at,details',
      limit: 'many',
      total: 'maybe',
      page: '1',
      offset: '0',
    });
    expect(found.map(({ code, at }) => [code, at])).toEqual([
      ['not-a-whole-number', 'many'],
      ['not-one-of', 'maybe'],
      ['conflicting-parameters', ''],
      ['repeated-column', 'id'],
      ['unknown-column', 'tol'],
      ['unknown-column', 'statu'],
      ['type-mismatch', "'high'"],
      ['unknown-enum-value', "'dispute'"],
      ['unknown-column', 'pased_at'],
      ['not-sortable', 'details'],
    ]);
    expect(found.map(({ hint }) => hint).filter((hint) => hint?.startsWith('Did'))).toEqual([
      'Did you mean toll?',
      'Did you mean status?',
      'Did you mean disputed?',
      'Did you mean passed_at?',
    ]);
  });

  it.each([
    ["toll > 'high'", 'type-mismatch', "'high'"],
    ['note = 3', 'type-mismatch', '3'],
    ["passed_at > '2024-13-01'", 'type-mismatch', "'2024-13-01'"],
    ["toll > 'much'", 'type-mismatch', "'much'"],
    ["passed_at > DATE('2023-02-30')", 'invalid-value', "DATE('2023-02-30')"],
    ["passed_at > TIMESTAMP('2023-02-03 10:00')", 'invalid-value', "TIMESTAMP('2023-02-03 10:00')"],
    ["mark = 'x'", 'invalid-value', "'x'"],
    ["at = '25:00'", 'invalid-value', "'25:00'"],
    ["crossing > '5 minutes'", 'invalid-value', "'5 minutes'"],
    ['speed > 1e999', 'number-out-of-range', '1e999'],
    ['toll > 1e99999999', 'number-out-of-range', '1e99999999'],
    ['toll', 'not-a-condition', 'toll'],
    ["clear AND 'x'", 'not-a-condition', "'x'"],
    ['(toll = 1) = 2', 'not-a-value', '(toll = 1)'],
    ["details = 'x'", 'not-comparable', 'details'],
    ["place = 'x'", 'not-comparable', 'place'],
    ["constructor(note) = 'x'", 'unknown-function', 'constructor(note)'],
    ["__proto__(note) = 'x'", 'unknown-function', '__proto__(note)'],
    ['toll = note', 'type-mismatch', 'note'],
    ["toll LIKE '1%'", 'type-mismatch', 'toll'],
    ['note LIKE status', 'pattern-not-literal', 'status'],
    ["note LIKE 'a\\\\'", 'pattern-ends-in-escape', "'a\\\\'"],
    ["casey(note) = 'x'", 'unknown-function', 'casey(note)'],
    ["CASEI(note, 'x') = 'x'", 'wrong-argument-count', "CASEI(note, 'x')"],
    ["CASEI(toll) = 'x'", 'type-mismatch', 'toll'],
    ["SELECTED('17', 'x')", 'invalid-value', "'x'"],
    ["SELECTED('17,3')", 'malformed-key', "'17,3'"],
    ["NOT SELECTED('%')", 'malformed-key', "'%'"],
    ['SELECTED(17)', 'type-mismatch', '17'],
  ])('refuses %s as %s', (filter, code, at) => {
    expect(problems({ filter })).toMatchObject([{ code, at }]);
  });

  it.each([
    "status IN ('passed', 'disputed') AND NOT clear",
    "passed_at >= DATE('2024-02-29') AND logged < TIMESTAMP('2024-02-29T10:15:00.5+02:00')",
    "mark = '0f8fad5b-d9cb-469f-a165-70867728950e' OR crossing > 'PT1H30M' OR at < '10:15'",
    'toll > 1.005 AND speed < 1e300 AND lock_id > 1.5 AND lock_id = 2.0e1',
    "CASEI(note) LIKE CASEI('%Heron%') AND 1 = 1 AND toll BETWEEN id AND lock_id",
    'details IS NULL AND crew IS NOT NULL AND place IS NULL AND TRUE',
    'lock_id < 2147483648 AND id <> 9223372036854775808 AND lock_id < -99999999999999999999',
    "day = TIMESTAMP('2024-01-01T00:00:00Z')",
    "passed_at = TIMESTAMP('2024-01-01T00:00:00.123456789Z')",
    '(toll > 4) IS NULL AND (clear OR NOT clear) IS NOT NULL',
    "SELECTED('17', '18') AND NOT SELECTED('18') OR SELECTED()",
    "A_OVERLAPS(('a', 'b'), ('b')) AND A_CONTAINS(crew, (note, 'b'))",
  ])('accepts %s', (filter) => {
    expect(problems({ filter })).toEqual([]);
  });

  it('takes selected rows as their keys, of one part or of several', () => {
    const { filter } = check({ filter: "SELECTED('17', '18')" });
    expect(filter).toMatchObject({
      kind: 'selected',
      columns: [{ name: 'id' }],
      keys: [[{ text: '17', value: '17' }], [{ value: '18' }]],
    });
    const crossed = { ...passages, key: ['lock_id', 'note', 'passed_at'] };
    expect(
      check({ filter: "SELECTED('3,a%2Cb,2024-02-29T10:15:00Z')" }, crossed).filter,
    ).toMatchObject({
      keys: [[{ value: '3' }, { value: 'a,b' }, { value: '2024-02-29 10:15:00+00' }]],
    });
    expect(check({ filter: 'SELECTED()' }).filter).toMatchObject({ keys: [] });
    const many = Array.from({ length: 1_001 }, (_, id) => `'${id}'`);
    expect(() => check({ filter: `SELECTED(${many.join()})` })).toThrow('at most 1000');
    expect(() => check({ filter: "SELECTED('1')" }, { ...passages, key: [] })).toThrow('no key');
  });

  it('gives values in the notation of their type', () => {
    const { filter } = check({ filter: "lock_id = 2.0e1 AND passed_at > DATE('2024-02-29')" });
    expect(filter).toMatchObject({
      operands: [
        { right: { value: '20', type: { kind: 'integer' } } },
        { right: { value: '2024-02-29T00:00:00Z' } },
      ],
    });
    const local = check({ filter: "logged = TIMESTAMP('2024-02-29T00:15:00.5+02:00')" });
    expect(local.filter).toMatchObject({ right: { value: '2024-02-28T22:15:00.5' } });
  });

  it('rounds what is finer than microseconds, as the database would', () => {
    const at = (literal: string): unknown => {
      const { filter } = check({ filter: `passed_at = TIMESTAMP('${literal}')` });
      return (filter as { right: { value: string } }).right.value;
    };
    expect(at('2024-01-01T00:00:00.1234565Z')).toBe('2024-01-01T00:00:00.123457Z');
    expect(at('2024-12-31T23:59:59.9999999Z')).toBe('2025-01-01T00:00:00.000000Z');
  });
});
