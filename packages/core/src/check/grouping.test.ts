import { property, type PathValue } from '../expression/index.ts';
import { parseParameters, termOf } from '../query/index.ts';
import type { ColumnDescription, TableDescription } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import {
  checkAggregates,
  checkGrouping,
  checkGroupLines,
  checkValuesOf,
  lineConditions,
  type CheckedGrouping,
  type CheckedGroupLines,
} from './index.ts';
import { and, printExpression } from '../expression/index.ts';

const locks: TableDescription = {
  ...passages,
  name: 'locks',
  columns: passages.columns.filter(({ name }) => ['id', 'note'].includes(name)),
  estimatedRows: 60,
};
const table: TableDescription = {
  ...passages,
  columns: passages.columns.map((column): ColumnDescription => {
    if (column.name === 'toll') {
      return { ...column, format: { kind: 'money', currency: 'ƒ', decimals: 2 } };
    }
    if (column.name === 'speed') return { ...column, format: { kind: 'number', unit: 'km/h' } };
    return column.name === 'mark' ? { ...column, groupable: false } : column;
  }),
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
  ],
};
const tables = (name: string): TableDescription | undefined =>
  name === 'locks' ? locks : undefined;

function grouping(parameters: Record<string, string>): CheckedGrouping {
  const { query, problems } = parseParameters(parameters);
  const read = checkGrouping(query, table, { tables });
  if ('problems' in read || problems.length > 0) {
    throw new Error(JSON.stringify([problems, read]));
  }
  return read.checked;
}

function codes(parameters: Record<string, string>): (string | undefined)[] {
  const read = checkGrouping(parseParameters(parameters).query, table, { tables });
  return 'problems' in read ? read.problems.map(({ code }) => code) : [];
}

describe('levels', () => {
  it.each([
    ['status', 'Status', 'enum', 'string'],
    ['lock.note', 'Lock note', 'text', 'string'],
    ["month(passed_at,'Europe/Paris')", 'Month of passed at', 'integer', 'number'],
    ["bin(passed_at,'P1M')", 'Calendar month of passed at', 'date', 'string'],
    ["bin(passed_at,'PT1H')", 'Clock hour of passed at', 'timestamp', 'string'],
    ['bin(toll,12.5)', 'Toll in steps of 12.5', 'numeric', 'string'],
    ['initial(lock.note)', 'First letter of lock note', 'text', 'string'],
    ['clear', 'Clear', 'boolean', 'boolean'],
    ['toll * 2', 'Toll * 2', 'numeric', 'string'],
  ])('%s is called %s and is a %s', (group, label, kind, encoding) => {
    const [level] = grouping({ group }).levels;
    expect(level).toMatchObject({ label, type: { kind }, encoding });
  });

  it('are written like their columns, bins like the values in them', () => {
    const { levels } = grouping({ group: 'toll,bin(toll,50),year(passed_at)' });
    const money = { kind: 'money', currency: 'ƒ', decimals: 2 };
    expect(levels.map(({ format }) => format)).toEqual([money, money, { kind: 'identifier' }]);
  });

  it('know whether many rows refer to the same', () => {
    const { levels } = grouping({ group: 'lock.note,note' });
    expect(levels.map(({ repeats }) => repeats)).toEqual([true, false]);
  });

  it.each([
    [{ group: 'mark' }, ['not-groupable']],
    [{ group: 'details' }, ['not-groupable']],
    [{ group: 'crew' }, ['not-groupable']],
    [{ group: "bin(day,'PT1H')" }, ['invalid-bin']],
    [{ group: 'bin(toll,1e999)' }, ['invalid-bin']],
    [{ group: 'bin(note,5)' }, ['type-mismatch']],
    [{ group: "hour(day,'UTC')" }, ['type-mismatch']],
    [{ group: 'today()' }, ['group-without-column']],
    [{ group: 'bin(toll)' }, ['wrong-argument-count']],
    [{ group: 'status,note', path: '["disputed","a"]' }, ['path-too-long']],
    [{ group: 'clear,note', path: '["true"]' }, ['type-mismatch']],
    [{ group: 'day,note', path: '["2024-02-30"]' }, ['invalid-value']],
    [{ group: 'id,note', path: '[1.5]' }, []],
    [{ group: 'toll,note', path: '["NaN"]' }, []],
    [{ group: 'status', sort: 'note,-count(),-count()' }, ['not-a-group-sort', 'repeated-term']],
  ])('%j are refused as %j', (parameters, expected) => {
    expect(codes(parameters)).toEqual(expected);
  });
});

describe('the order of groups', () => {
  it('ends with the value, and leaves out what sorts another level', () => {
    const parameters = { group: 'status,day', aggregate: 'sum(toll)', sort: '-sum(toll),day' };
    const outer = grouping(parameters);
    expect(outer.sort.map(({ column: { name, own } }) => [name, own])).toEqual([
      ['sum(toll)', 'a0'],
      ['status', 'value'],
    ]);
    const inner = grouping({ ...parameters, path: '["disputed"]' });
    expect(inner.sort.map(({ column: { name } }) => name)).toEqual(['sum(toll)', 'day']);
    expect(inner.path).toEqual(['disputed']);
  });

  it('is by aggregates that are not shown, too', () => {
    const { hidden, sort } = grouping({
      group: 'status',
      aggregate: 'sum(toll)',
      sort: '-max(day),avg(toll)',
    });
    expect(hidden.map(({ name }) => name)).toEqual(['max(day)', 'avg(toll)']);
    expect(sort.map(({ column: { own } }) => own)).toEqual(['a1', 'a2', 'value']);
  });
});

describe('aggregates', () => {
  it.each([
    ['count()', 'Count', { kind: 'integer', bits: 64 }, 'number', 'number'],
    ['distinct(note)', 'Different values of note', { kind: 'integer' }, 'number', 'number'],
    ['sum(lock_id)', 'Sum of lock id', { kind: 'integer', bits: 64 }, 'string', undefined],
    ['sum(id)', 'Sum of id', { kind: 'numeric' }, 'string', undefined],
    ['sum(speed)', 'Sum of speed', { kind: 'float', bits: 64 }, 'number', 'number'],
    ['avg(lock_id)', 'Average of lock id', { kind: 'numeric' }, 'string', 'number'],
    ['median(toll)', 'Median of toll', { kind: 'numeric' }, 'string', 'money'],
    ['median(day)', 'Median of day', { kind: 'date' }, 'string', undefined],
    ['percentile(toll,99.5)', 'Percentile 99.5 of toll', { kind: 'numeric' }, 'string', 'money'],
    ['max(status)', 'Greatest status', { kind: 'enum' }, 'string', undefined],
    ['share(toll)', 'Share of toll', { kind: 'float' }, 'number', 'percent'],
    [
      "count(status = 'passed')",
      "Count where status = 'passed'",
      { kind: 'integer', bits: 64 },
      'number',
      'number',
    ],
    [
      "sum(toll, status = 'passed' OR toll > 3)",
      "Sum of toll where status = 'passed' OR toll > 3",
      { kind: 'numeric' },
      'string',
      'money',
    ],
    ['sum(toll, clear)', 'Sum of toll where clear', { kind: 'numeric' }, 'string', 'money'],
    [
      'percentile(toll, 90, clear = TRUE)',
      'Percentile 90 of toll where clear = TRUE',
      { kind: 'numeric' },
      'string',
      'money',
    ],
  ])('%s is the %s', (aggregate, label, type, encoding, format) => {
    const { query } = parseParameters({ aggregate });
    const read = checkAggregates(query, table);
    const [found] = 'checked' in read ? read.checked.aggregates : [];
    expect(found).toMatchObject({ name: expect.any(String) as string, label, type, encoding });
    expect(found?.format?.kind).toBe(format);
  });

  it.each([
    ["sum(status = 'passed')", 'wrong-argument-count', 0],
    ['count(tol = 1)', 'unknown-column', 6],
    ["sum(toll, status = 'pased')", 'unknown-enum-value', 19],
    ['sum(toll, status)', 'wrong-argument-count', 0],
    ['sum(toll, toll > 3, clear)', 'wrong-argument-count', 0],
    ["sum(toll, status = 'passed', toll > 3)", 'wrong-argument-count', 0],
    ["count(toll LIKE 'x')", 'type-mismatch', 6],
  ])('of some rows are refused at their place: %s', (aggregate, code, position) => {
    const { query } = parseParameters({ aggregate });
    const read = checkAggregates(query, table);
    expect('problems' in read && read.problems).toMatchObject([{ code, position }]);
  });

  it('of averages are written with two decimals and their unit', () => {
    const { query } = parseParameters({ aggregate: 'avg(speed)' });
    const read = checkAggregates(query, table);
    const [found] = 'checked' in read ? read.checked.aggregates : [];
    expect(found?.format).toEqual({ kind: 'number', unit: 'km/h', decimals: 2 });
  });
});

describe('the conditions of a line', () => {
  const conditions = (group: string, value: PathValue['kind'], text: string | boolean): string => {
    const [level] = grouping({ group }).levels;
    const [term] = parseParameters({ group }).query.group ?? [];
    const span = { start: 0, end: 0 };
    const at = { kind: value, value: text, span } as PathValue;
    const found = level && lineConditions(term?.expression ?? property('x'), level, at);
    const all = found && and(found);
    return all === undefined ? 'none' : printExpression(all);
  };

  it.each<[string, PathValue['kind'], string | boolean, string]>([
    ['status', 'string', 'disputed', "status = 'disputed'"],
    ['note', 'string', "it's", "note = 'it''s'"],
    ['note', 'null', '', 'note IS NULL'],
    ['clear', 'boolean', false, 'clear = FALSE'],
    ['lock.note', 'string', 'a', "lock.note = 'a'"],
    ['id', 'string', '9223372036854775807', 'id = 9223372036854775807'],
    ['toll', 'string', 'NaN', 'none'],
    ['speed', 'number', '0.1', 'speed = 0.1'],
    ['day', 'string', '2024-02-29', "day = DATE('2024-02-29')"],
    ['day', 'string', 'infinity', 'none'],
    ['logged', 'string', '2024-02-29T10:15:00', "logged = TIMESTAMP('2024-02-29T10:15:00Z')"],
    ['bin(toll, 2.5)', 'string', '97.5', 'toll >= 97.5 AND toll < 100.0'],
    ['bin(speed, 10)', 'string', '20', 'BIN(speed, 10) = 20'],
    [
      "bin(passed_at, 'P1M')",
      'string',
      '2023-12-01',
      "passed_at >= DATE('2023-12-01') AND passed_at < DATE('2024-01-01')",
    ],
    [
      "bin(day, 'P1W')",
      'string',
      '2024-02-26',
      "day >= DATE('2024-02-26') AND day < DATE('2024-03-04')",
    ],
    [
      "bin(passed_at, 'P1Y', 'Asia/Tokyo')",
      'string',
      '2024-01-01',
      "passed_at >= DATE('2023-12-31') AND passed_at < DATE('2025-01-02') AND BIN(passed_at, 'P1Y', 'Asia/Tokyo') = DATE('2024-01-01')",
    ],
    [
      'year(passed_at)',
      'number',
      '2024',
      "passed_at >= DATE('2024-01-01') AND passed_at < DATE('2025-01-01')",
    ],
    ['year(passed_at)', 'number', '-44', 'YEAR(passed_at) = -44'],
    ['month(day)', 'number', '2', 'MONTH(day) = 2'],
  ])('of %s at %s %j', (group, kind, value, expected) => {
    expect(conditions(group, kind, value)).toBe(expected);
  });
});

describe('the values of a column', () => {
  it('are requested without what the filter says of it alone', () => {
    const { query } = parseParameters({
      filter: "status = 'disputed' AND toll > 5 AND (status = 'passed' OR toll < 9)",
    });
    const read = checkValuesOf(query, { column: 'status', containing: 'p' }, table);
    const checked = 'checked' in read ? read.checked.grouping : undefined;
    expect(checked?.filter).toMatchObject({ kind: 'and', operands: [{}, { kind: 'or' }] });
    expect(checked?.containing).toBe('p');
    expect(checked?.levels).toHaveLength(1);
  });

  it('are refused where the condition that is left out is wrong', () => {
    const { query } = parseParameters({ filter: "toll = 'x'" });
    const read = checkValuesOf(query, { column: 'toll', bins: 5 }, table);
    expect('problems' in read && read.problems).toMatchObject([
      { code: 'type-mismatch', parameter: 'filter', position: 7 },
    ]);
    const unknown = checkValuesOf({}, { column: 'tol' }, table);
    expect('problems' in unknown && unknown.problems).toMatchObject([
      { code: 'unknown-column', parameter: 'column', hint: 'Did you mean toll?' },
    ]);
  });

  it('are called by their column', () => {
    expect(termOf(property('odd name')).name).toBe('"odd name"');
  });
});

describe('all groups of the last level', () => {
  const lines = (parameters: Record<string, string>): CheckedGroupLines => {
    const { query } = parseParameters(parameters);
    const read = checkGroupLines(query, table, { tables });
    if ('problems' in read) throw new Error(JSON.stringify(read));
    return read.checked;
  };
  const sorted = (parameters: Record<string, string>): string[] =>
    lines(parameters).sort.map(
      ({ column, descending, nulls }) => `${descending ? '-' : ''}${column.own} ${nulls}`,
    );

  it('have a column for each level and for each aggregate, the number of rows where none is named', () => {
    const { columns } = lines({ group: 'status,year(passed_at)', aggregate: 'sum(toll)' });
    expect(columns.map(({ own, name }) => `${own} ${name}`)).toEqual([
      ...['k0 status', 'k1 year(passed_at)', 'a0 sum(toll)'],
    ]);
    expect(lines({ group: 'status' }).columns.map(({ name }) => name)).toEqual([
      ...['status', 'count()'],
    ]);
  });

  it('are sorted by their levels in turn, and within the last one by the requested sort', () => {
    const group = 'status,year(passed_at)';
    expect(sorted({ group })).toEqual(['k0 last', 'k1 last']);
    expect(sorted({ group, sort: '-year(passed_at),-status', nulls: 'first' })).toEqual([
      ...['-k0 first', '-k1 first'],
    ]);
    expect(sorted({ group, sort: '-sum(toll)' })).toEqual(['k0 last', '-a1 last', 'k1 last']);
    expect(lines({ group, sort: '-sum(toll)' }).hidden.map(({ name }) => name)).toEqual([
      'sum(toll)',
    ]);
  });

  it('tell every error at once, as one level does', () => {
    const { query } = parseParameters({ aggregate: 'sum(note)', sort: 'mark' });
    const read = checkGroupLines(query, table, { tables });
    const found = 'problems' in read ? read.problems.map(({ code }) => code) : [];
    expect(found).toEqual(['missing-group', 'not-aggregable', 'not-a-group-sort']);
  });
});
