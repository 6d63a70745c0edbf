import { printExpression, where } from './index.ts';

const q = where<'toll' | 'status' | 'note' | 'passed_at'>();

describe('conditions made by a program', () => {
  it.each([
    [q.above('toll', 100), 'toll > 100'],
    [q.equals('note', "it's"), "note = 'it''s'"],
    [q.atMost('toll', 12345678901234567890n), 'toll <= 12345678901234567890'],
    [q.below('passed_at', new Date(0)), "passed_at < TIMESTAMP('1970-01-01T00:00:00.000Z')"],
    [q.between('toll', -1, 2.5), 'toll BETWEEN -1 AND 2.5'],
    [q.oneOf('status', ['a', 'b']), "status IN ('a', 'b')"],
    [q.oneOf('status', []), 'FALSE'],
    [q.contains('note', '100%'), "CONTAINS(CASEI(note), CASEI('100%'))"],
    [q.not(q.missing('note')), 'note IS NOT NULL'],
    [
      q.all(q.above('toll', 1), q.any(q.differs('status', 'x'), q.atLeast('toll', 3))),
      "toll > 1 AND (status <> 'x' OR toll >= 3)",
    ],
    [q.equals('toll', q.call('year', q.column('passed_at'))), 'toll = YEAR(passed_at)'],
    [q.all(q.above('toll', 1)), 'toll > 1'],
  ])('%#: %j', (expression, printed) => {
    expect(printExpression(expression)).toBe(printed);
  });

  it('are refused where the language has no spelling', () => {
    expect(() => q.above('toll', NaN)).toThrow(RangeError);
  });
});
