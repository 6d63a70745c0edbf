import { checkGrouping, checkQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import { plainColumn } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import {
  arrangeRows,
  byCodePoint,
  groupRows,
  queryRows,
  unicodeOrder,
  type MemoryRow,
} from './index.ts';

const rows: readonly MemoryRow[] = [
  { id: '1', toll: '2.50', note: 'zebra', speed: 1, status: 'disputed', day: '2024-02-29' },
  { id: '2', toll: null, note: 'Äpfel', speed: 2, status: 'passed', day: null },
  { id: '3', toll: '10', note: 'apple', speed: 'NaN', status: 'passed', day: '2023-12-31' },
  { id: '10', toll: '2.5', note: null, speed: null, status: null, day: '2024-01-01' },
];

function request(
  parameters: Partial<Record<QueryParameter, string>>,
): Parameters<typeof queryRows>[0] {
  const read = checkQuery(parseParameters(parameters).query, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return read.checked;
}

function ids(parameters: Partial<Record<QueryParameter, string>>): unknown[] {
  return queryRows(request({ columns: 'id', ...parameters }), rows, {
    textOrder: unicodeOrder,
  }).rows.map(({ id }) => id);
}

describe('rows in memory', () => {
  it.each([
    ['by the key where nothing else is said of the order', { sort: 'id' }, ['1', '2', '3', '10']],
    ['by decimals, equal ones by the key, nulls last', { sort: 'toll' }, ['1', '10', '3', '2']],
    ['the other way around, nulls last all the same', { sort: '-toll' }, ['3', '10', '1', '2']],
    ['with nulls first', { sort: '-toll', nulls: 'first' }, ['2', '3', '10', '1']],
    ['by texts as a language has them', { sort: 'note' }, ['2', '3', '1', '10']],
    ['by an enumeration in its own order', { sort: 'status' }, ['2', '3', '1', '10']],
    ['with NaN above all numbers', { sort: '-speed' }, ['3', '2', '1', '10']],
  ] as const)('are sorted %s', (_what, parameters, expected) => {
    expect(ids(parameters)).toEqual(expected);
  });

  it.each([
    ['toll = 2.5', ['1', '10']],
    ['NOT (toll = 2.5)', ['3']],
    ['toll = 2.5 OR toll IS NULL', ['1', '2', '10']],
    ['toll / 0 IS NULL', ['1', '2', '3', '10']],
    ["CASEI(note) LIKE CASEI('a%')", ['3']],
    ["day BETWEEN DATE('2024-01-01') AND DATE('2024-12-31')", ['1', '10']],
    ["status IN ('passed')", ['2', '3']],
  ])('meet %s as the database has it', (filter, expected) => {
    expect(ids({ filter, sort: 'id' })).toEqual(expected);
  });

  it('compare texts of a list as its own are, and by LIKE as the collation has them', () => {
    const citext = { kind: 'text', databaseType: 'public.citext' } as const;
    const table = {
      ...passages,
      columns: [
        ...passages.columns,
        plainColumn('boat', citext),
        plainColumn('boats', { kind: 'array', element: citext }),
      ],
    };
    const remaining = [
      { id: '1', note: 'OTTER', boat: 'İ', boats: ['Otter'] },
      { id: '2', note: 'Heron', boat: 'ä', boats: ['Otter', 'heron'] },
      { id: '3', note: null, boat: 'Ä', boats: ['Otter'] },
    ];
    const found = (filter: string, textOrder = unicodeOrder): unknown[] => {
      const read = checkQuery(parseParameters({ filter, sort: 'id' }).query, table);
      if ('problems' in read) throw new Error(read.problems[0]?.message);
      return queryRows(read.checked, remaining, { textOrder }).rows.map(({ id }) => id);
    };
    expect(found("A_CONTAINS(boats, (note, 'otter'))")).toEqual(['1', '2']);
    expect(found("boat LIKE 'ä'")).toEqual(['2', '3']);
    expect(found("boat LIKE 'ä'", byCodePoint)).toEqual(['2']);
    // Its small letter has two characters, where that collation knows it.
    expect(found("boat LIKE '_'")).toEqual(['2', '3']);
    expect(found("boat LIKE '_'", byCodePoint)).toEqual(['1', '2', '3']);
  });

  it('are found and sorted once for all windows, columns and cursors', () => {
    const query = request({ sort: 'toll', limit: '2' });
    const windows = arrangeRows(query, rows);
    const first = windows({ ...query, columns: query.columns.slice(0, 1) });
    expect(first.rows).toEqual([{ id: '1' }, { id: '10' }]);
    expect(first.total).toBe(4);
    const behind = request({ sort: 'toll', limit: '2', after: first.next ?? '' });
    expect(windows(behind).rows.map(({ id }) => id)).toEqual(['3', '2']);
    const before = request({ sort: 'toll', limit: '2', before: windows(behind).previous ?? '' });
    expect(windows(before).rows.map(({ id }) => id)).toEqual(['1', '10']);
    expect(windows(behind).next).toBeNull();
  });

  it('make groups whose values are equal, however they are written', () => {
    const read = checkGrouping(
      parseParameters({ group: 'toll', aggregate: 'count(),max(note)', sort: '-count()' }).query,
      passages,
    );
    if ('problems' in read) throw new Error(read.problems[0]?.message);
    const { groups, total } = groupRows(read.checked, rows, { textOrder: byCodePoint });
    expect(total).toBe(3);
    expect(
      groups.map(({ value, count, aggregates }) => [value, count, aggregates['max(note)']]),
    ).toEqual([
      ['2.50', 2, 'zebra'],
      ['10', 1, 'apple'],
      [null, 1, 'Äpfel'],
    ]);
  });
});
