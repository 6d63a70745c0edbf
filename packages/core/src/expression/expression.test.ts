import fc from 'fast-check';
import { expressions, withoutPlaces } from '../testing/expressions.ts';
import { parseExpression, printExpression, type Expression } from './index.ts';

function read(source: string): Expression {
  const result = parseExpression(source);
  if ('problems' in result) throw new Error(result.problems[0]?.message);
  return result.expression;
}

function refusal(source: string): { code: string; at: string; message: string } {
  const result = parseExpression(source);
  if (!('problems' in result)) throw new Error('was not refused');
  const [{ code, position = 0, length = 0, message }] = result.problems as [
    (typeof result.problems)[number],
  ];
  return { code, at: source.slice(position, position + length), message };
}

describe('a filter in CQL2 Text', () => {
  it('comes back the same after printing and reading, whatever it is', () => {
    fc.assert(
      fc.property(expressions, (expression) => {
        const again = read(printExpression(expression));
        expect(withoutPlaces(again)).toEqual(withoutPlaces(expression));
      }),
      { numRuns: 2000 },
    );
  });

  it('never throws and never points outside of the text, whatever is read', () => {
    const pieces = fc.constantFrom(
      ..."( ) , = <> <= AND OR NOT IN BETWEEN LIKE IS NULL toll 'x' \"y\" 12 -3.5 DATE('x') CASEI( ' \" \\ ; é 🛶".split(
        ' ',
      ),
    );
    const soup = fc
      .array(fc.oneof(pieces, fc.string()), { maxLength: 30 })
      .map((all) => all.join(' '));
    fc.assert(
      fc.property(soup, (source) => {
        const result = parseExpression(source);
        if (!('problems' in result)) return;
        expect(result.problems).toHaveLength(1);
        for (const { position = 0, length = 0 } of result.problems) {
          expect(position).toBeGreaterThanOrEqual(0);
          expect(position + length).toBeLessThanOrEqual(source.length);
        }
      }),
      { numRuns: 3000 },
    );
  });

  it('binds NOT closer than AND, AND closer than OR', () => {
    expect(printExpression(read('a = 1 or not b = 2 and c = 3'))).toBe(
      'a = 1 OR NOT b = 2 AND c = 3',
    );
    expect(withoutPlaces(read('a = 1 or not b = 2 and c = 3'))).toMatchObject({
      kind: 'or',
      operands: [{ kind: 'comparison' }, { kind: 'and', operands: [{ kind: 'not' }, {}] }],
    });
  });

  it('takes parentheses as they are meant and drops needless ones', () => {
    expect(printExpression(read('((a = 1) AND ((b = 2 OR c = 3)))'))).toBe(
      'a = 1 AND (b = 2 OR c = 3)',
    );
  });

  it.each([
    ["note = 'it''s'", "it's"],
    ["note = 'it\\'s'", "it's"],
    ["note = 'C:\\dir'", 'C:\\dir'],
    ["note = 'ends in \\\\'", 'ends in \\'],
    ["note = ''", ''],
    ["note = '🛶 ñ'", '🛶 ñ'],
  ])('reads the text of %s', (source, value) => {
    expect(read(source)).toMatchObject({ right: { kind: 'text', value } });
  });

  it('reads keywords and functions in any letter case, names as they are', () => {
    expect(printExpression(read("Toll Between 1 and 2 aNd casei(Note) like cASEI('A%')"))).toBe(
      "Toll BETWEEN 1 AND 2 AND CASEI(Note) LIKE CASEI('A%')",
    );
    expect(read('"odd ""name""" IS NOT NULL')).toMatchObject({
      kind: 'not',
      operand: { operand: { name: 'odd "name"' } },
    });
    expect(read('lock.canal.name = 1')).toMatchObject({ left: { name: 'lock.canal.name' } });
  });

  it('keeps places in UTF-16 units', () => {
    const source = "note = '🛶' AND tol > 1";
    const expression = read(source);
    if (expression.kind !== 'and') throw new Error('not a chain');
    const [, second] = expression.operands;
    expect(source.slice(second?.span.start, second?.span.end)).toBe('tol > 1');
  });

  it.each([
    ['toll > > 100', 'unexpected-token', '>'],
    ['toll >', 'unexpected-end', ''],
    ['', 'unexpected-end', ''],
    ["status = 'x", 'unclosed-quote', "'x"],
    ['"toll = 3', 'unclosed-quote', '"toll = 3'],
    ['toll = 3; drop', 'stray-character', ';'],
    ['toll != 3', 'stray-character', '!'],
    ['status = “x”', 'stray-character', '“'],
    ['toll = NULL', 'null-literal', 'NULL'],
    ['toll IS 3', 'unexpected-token', '3'],
    ['toll IN ()', 'unexpected-token', ')'],
    ['toll IN (1, 2', 'unexpected-end', ''],
    ['toll = 1 AN lock = 2', 'unexpected-token', 'AN'],
    ['a = 1 b', 'unexpected-token', 'b'],
    ['passed_at > DATE(2020)', 'unexpected-token', '2020'],
    ['toll BETWEEN 1', 'unexpected-end', ''],
  ])('refuses %s with %s at its place', (source, code, at) => {
    expect(refusal(source)).toMatchObject({ code, at });
  });

  it('suggests the keyword that was meant', () => {
    expect(refusal('toll BETWEN 1 AND 2').message).toContain('perhaps BETWEEN');
  });

  it('never repeats a value in a message', () => {
    expect(refusal("toll = 1 'a secret'").message).not.toContain('secret');
  });

  it.each([
    ['parentheses', '('.repeat(10_000) + 'a = 1' + ')'.repeat(10_000), 'nested-too-deep'],
    ['NOTs', `${'NOT '.repeat(10_000)}a = 1`, 'nested-too-deep'],
    [
      'members',
      `a IN (${Array.from({ length: 100_000 }, (_, n) => n).join(',')})`,
      'too-many-members',
    ],
  ])('refuses too many %s with its limit', (_, source, code) => {
    expect(refusal(source).code).toBe(code);
  });

  it('joins long chains without nesting', () => {
    const chain = Array.from({ length: 3000 }, (_, n) => `a = ${n}`).join(' OR ');
    expect(read(chain)).toMatchObject({ kind: 'or', operands: { length: 3000 } });
  });
});
