import fc from 'fast-check';
import { expressions, withoutPlaces } from '../testing/expressions.ts';
import {
  parseExpression,
  parseExpressionJson,
  printExpression,
  printExpressionJson,
  type Expression,
} from './index.ts';

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

  it('comes back the same through CQL2 JSON, and from Text to JSON to Text', () => {
    const numbersAsJson = (value: unknown): unknown =>
      JSON.parse(JSON.stringify(value), (_, inner: unknown) => {
        const node = inner as { kind?: string; value?: string };
        return node.kind === 'number' ? { ...node, value: String(Number(node.value)) } : inner;
      });
    fc.assert(
      fc.property(expressions, (expression) => {
        const json = printExpressionJson(expression);
        expect(() => void JSON.parse(json)).not.toThrow();
        const again = parseExpressionJson(json);
        if ('problems' in again) throw new Error(again.problems[0]?.message);
        expect(numbersAsJson(withoutPlaces(again.expression))).toEqual(
          numbersAsJson(withoutPlaces(expression)),
        );
        expect(printExpressionJson(read(printExpression(again.expression)))).toBe(json);
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
    ['toll = 3; drop', 'unexpected-character', ';'],
    ['toll != 3', 'unexpected-character', '!'],
    ['status = “x”', 'unexpected-character', '“'],
    ['toll = NULL', 'null-literal', 'NULL'],
    ['toll IS 3', 'unexpected-token', '3'],
    ['toll IN ()', 'unexpected-token', ')'],
    ['toll + = 3', 'unexpected-token', '='],
    ["T_AFTER(d, INTERVAL('..'))", 'wrong-argument-count', "INTERVAL('..')"],
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
    ['lists', 'a IN ('.repeat(10_000), 'nested-too-deep'],
    ['minus signs', `a = ${'-'.repeat(10_000)}b`, 'nested-too-deep'],
    ['NOTs', `${'NOT '.repeat(10_000)}a = 1`, 'nested-too-deep'],
    [
      'members',
      `a IN (${Array.from({ length: 100_000 }, (_, n) => n).join(',')})`,
      'too-many-members',
    ],
  ])('refuses too many %s with its limit', (_, source, code) => {
    expect(refusal(source).code).toBe(code);
  });

  it.each([
    ['a + b * c ^ 2 - 1 > 0', 'a + b * c ^ 2 - 1 > 0'],
    ['(a + b) * c > 0', '(a + b) * c > 0'],
    ['a - (b - c) = -1', 'a - (b - c) = -1'],
    ['a DIV 2 % 3 = -b', 'a DIV 2 % 3 = -1 * b'],
    [
      "t_during(passed_at, interval('..', '2020-01-01'))",
      "T_DURING(passed_at, INTERVAL('..', '2020-01-01'))",
    ],
    ["A_CONTAINS(crew, ('Ada'))", "A_CONTAINS(crew, ('Ada'))"],
    ['A_CONTAINS(crew, ())', 'A_CONTAINS(crew, ())'],
    ['a -1 = 2', 'a - 1 = 2'],
  ])('reads %s', (source, printed) => {
    expect(printExpression(read(source))).toBe(printed);
  });

  it.each([
    [
      '{"op":"and","args":[{"op":"=","args":[{"property":"a"},1]},{"op":"isNull","args":[{"property":"b"}]}]}',
      'a = 1 AND b IS NULL',
    ],
    [
      '{"op":"not","args":[{"op":"like","args":[{"op":"casei","args":[{"property":"n"}]},"a%"]}]}',
      "CASEI(n) NOT LIKE 'a%'",
    ],
    ['{"op":"in","args":[{"property":"s"},["x","y"]]}', "s IN ('x', 'y')"],
    [
      '{"op":"between","args":[{"property":"d"},{"date":"2020-01-01"},{"timestamp":"2020-01-01T00:00:00Z"}]}',
      "d BETWEEN DATE('2020-01-01') AND TIMESTAMP('2020-01-01T00:00:00Z')",
    ],
    [
      '{"op":"t_after","args":[{"property":"d"},{"interval":["..",{"property":"e"}]}]}',
      "T_AFTER(d, INTERVAL('..', e))",
    ],
    [
      '{"op":"=","args":[{"property":"n"},12345678901234567890.000000000001]}',
      'n = 12345678901234567890.000000000001',
    ],
  ])('reads the JSON %s', (source, printed) => {
    const result = parseExpressionJson(source);
    if ('problems' in result) throw new Error(result.problems[0]?.message);
    expect(printExpression(result.expression)).toBe(printed);
    expect(printExpressionJson(result.expression)).toBe(source);
  });

  it.each([
    ['{"op":"=","args":[{"property":"a"}]}', 'wrong-argument-count'],
    ['{"op":"="', 'unexpected-end'],
    ['{"op":"=","args":[{"property":"a"},null]}', 'null-literal'],
    ['{"op":"in","args":[{"property":"a"},3]}', 'unexpected-token'],
    ['{"property":3}', 'unexpected-token'],
    ['{"x":3}', 'unexpected-token'],
    ['{"op":"=","args":[1,1]} x', 'unexpected-token'],
    ['{"op":"=","args":["\\x",1]}', 'unexpected-token'],
    ['['.repeat(100_000), 'nested-too-deep'],
  ])('refuses the JSON %.60s with %s', (source, code) => {
    const result = parseExpressionJson(source);
    expect('problems' in result ? result.problems[0]?.code : 'read').toBe(code);
  });

  it('joins long chains without nesting', () => {
    const chain = Array.from({ length: 2000 }, (_, n) => `a = ${n}`).join(' OR ');
    expect(read(chain)).toMatchObject({ kind: 'or', operands: { length: 2000 } });
  });

  it('bounds what a filter costs: its parts, and how deep its tree is', () => {
    const code = (source: string): string | undefined => {
      const result = parseExpression(source);
      return 'problems' in result ? result.problems[0]?.code : 'read';
    };
    const repeated = (count: number, part: string, by: string): string =>
      Array.from({ length: count }, () => part).join(by);
    expect(code(repeated(3000, 'a = 1', ' AND '))).toBe('too-many-parts');
    expect(code(`a = ${repeated(100, '1', ' + ')}`)).toBe('read');
    expect(code(`a = ${repeated(3000, '1', ' + ')}`)).toBe('nested-too-deep');
    // Literals of a list are bound together: its own limit holds for them.
    expect(code(`a IN (${repeated(9_000, '1', ', ')})`)).toBe('read');
    expect(code(`a IN (${repeated(6_000, 'b', ', ')})`)).toBe('too-many-parts');
    const json = JSON.stringify({
      op: 'and',
      args: Array.from({ length: 3000 }, () => ({ op: '=', args: [{ property: 'a' }, 1] })),
    });
    expect(parseExpressionJson(json)).toMatchObject({ problems: [{ code: 'too-many-parts' }] });
  });
});
