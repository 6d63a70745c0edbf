import { parseExpression, printExpression, type Expression } from '../expression/index.ts';
import { passages } from '../testing/passages.ts';
import { conditionOf, withCondition, type Condition } from './index.ts';

function columnNamed(name: string): (typeof passages.columns)[number] {
  const column = passages.columns.find((one) => one.name === name);
  if (column === undefined) throw new Error(name);
  return column;
}

function filter(source: string): Expression | undefined {
  if (source === '') return undefined;
  const read = parseExpression(source);
  if ('problems' in read) throw new Error(source);
  return read.expression;
}

const cases: [string, Condition, string][] = [
  ['toll', { kind: 'range', from: '1', to: '2.5' }, 'toll BETWEEN 1 AND 2.5'],
  ['toll', { kind: 'range', from: '1' }, 'toll >= 1'],
  ['toll', { kind: 'range', to: '-1' }, 'toll <= -1'],
  ['note', { kind: 'equals', value: "it's" }, "note = 'it''s'"],
  ['note', { kind: 'contains', value: '100%_\\' }, "CASEI(note) LIKE CASEI('%100\\%\\_\\\\%')"],
  ['status', { kind: 'oneOf', values: ['passed', 'disputed'] }, "status IN ('passed', 'disputed')"],
  ['clear', { kind: 'equals', value: 'false' }, 'clear = FALSE'],
  ['day', { kind: 'equals', value: '2024-02-29' }, "day = DATE('2024-02-29')"],
  [
    'passed_at',
    { kind: 'range', from: '2024-02-29T10:15:00Z' },
    "passed_at >= TIMESTAMP('2024-02-29T10:15:00Z')",
  ],
  ['toll', { kind: 'missing', missing: true }, 'toll IS NULL'],
  ['toll', { kind: 'missing', missing: false }, 'toll IS NOT NULL'],
];

/** What a reader in a zone sets on a timestamp, and the query that follows. */
const moments: [string, string, Condition, string][] = [
  [
    'passed_at',
    'UTC',
    { kind: 'equals', value: '2020-07-01' },
    "passed_at >= DATE('2020-07-01') AND passed_at < DATE('2020-07-02')",
  ],
  ['passed_at', 'UTC', { kind: 'range', to: '2020-07-31' }, "passed_at < DATE('2020-08-01')"],
  [
    'passed_at',
    'Europe/Paris',
    { kind: 'equals', value: '2020-07-01' },
    "passed_at >= TIMESTAMP('2020-06-30T22:00:00Z') AND passed_at < TIMESTAMP('2020-07-01T22:00:00Z')",
  ],
  [
    'passed_at',
    'Europe/Paris',
    { kind: 'range', from: '2020-03-29', to: '2020-03-29' },
    "passed_at >= TIMESTAMP('2020-03-28T23:00:00Z') AND passed_at < TIMESTAMP('2020-03-29T22:00:00Z')",
  ],
  // The clocks leave midnight out on this day.
  [
    'passed_at',
    'America/Sao_Paulo',
    { kind: 'range', from: '2017-10-15' },
    "passed_at >= TIMESTAMP('2017-10-15T03:00:00Z')",
  ],
  [
    'passed_at',
    'Europe/Paris',
    { kind: 'range', from: '2020-07-01', to: '2020-07-02T08:00:00Z' },
    "passed_at >= TIMESTAMP('2020-06-30T22:00:00Z') AND passed_at <= TIMESTAMP('2020-07-02T08:00:00Z')",
  ],
  // A column without a zone has the same clock everywhere.
  [
    'logged',
    'Europe/Paris',
    { kind: 'equals', value: '2020-07-01' },
    "logged >= DATE('2020-07-01') AND logged < DATE('2020-07-02')",
  ],
  [
    'logged',
    'Europe/Paris',
    { kind: 'range', from: '2020-07-01T10:00:00Z' },
    "logged >= TIMESTAMP('2020-07-01T10:00:00Z')",
  ],
];

describe('the condition of one column', () => {
  it.each(moments)('of %s in %s: %j is %s, and is read back', (name, zone, condition, text) => {
    const column = columnNamed(name);
    const written = withCondition(undefined, column, condition, zone);
    expect(written && printExpression(written)).toBe(text);
    const { from, to } = condition.kind === 'range' ? condition : {};
    // From a day to the same day is that day.
    const expected =
      from !== undefined && from === to ? { kind: 'equals', value: from } : condition;
    expect(conditionOf(filter(text), column, zone)).toEqual(expected);
  });

  it('of a midnight alone is no day', () => {
    const column = columnNamed('passed_at');
    expect(conditionOf(filter("passed_at = DATE('2020-07-01')"), column)).toEqual({
      kind: 'other',
    });
    expect(conditionOf(filter("passed_at <= DATE('2020-07-01')"), column)).toEqual({
      kind: 'other',
    });
  });

  it.each(cases)('of %s %j is written %s and read back', (name, condition, text) => {
    const column = columnNamed(name);
    const written = withCondition(undefined, column, condition);
    expect(written && printExpression(written)).toBe(text);
    expect(conditionOf(filter(text), column)).toEqual(condition);
  });

  it('takes the place of what the filter stated about the column and leaves the rest', () => {
    const before = filter("status = 'passed' AND toll > 5 AND (lock_id = 1 OR lock_id = 2)");
    const after = withCondition(before, columnNamed('toll'), { kind: 'range', to: '9' });
    expect(after && printExpression(after)).toBe(
      "status = 'passed' AND toll <= 9 AND (lock_id = 1 OR lock_id = 2)",
    );
    const without = withCondition(after, columnNamed('lock_id'), undefined);
    expect(without && printExpression(without)).toBe("status = 'passed' AND toll <= 9");
  });

  it('is "other" where it says more than an editor can show', () => {
    expect(conditionOf(filter('toll > 5'), columnNamed('toll'))).toEqual({ kind: 'other' });
    expect(conditionOf(filter('toll = 1 OR id = 2'), columnNamed('id'))).toEqual({ kind: 'other' });
    expect(conditionOf(filter('toll >= 1 AND toll <= 2'), columnNamed('toll'))).toEqual({
      kind: 'other',
    });
    expect(conditionOf(filter("note LIKE 'a%'"), columnNamed('note'))).toEqual({ kind: 'other' });
    expect(conditionOf(filter('id = 2'), columnNamed('toll'))).toBeUndefined();
  });
});
