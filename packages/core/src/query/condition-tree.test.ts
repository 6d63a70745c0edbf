import fc from 'fast-check';
import { parseExpression, printExpression, type Expression } from '../expression/index.ts';
import { expressions } from '../testing/expressions.ts';
import {
  branch,
  inserted,
  movedTo,
  partAt,
  placesIn,
  readTree,
  replaced,
  writeTree,
  type ConditionBranch,
} from './index.ts';

function read(text: string): Expression {
  const parsed = parseExpression(text);
  if ('problems' in parsed) throw new Error(parsed.problems[0]?.message);
  return parsed.expression;
}

function treeOf(text: string): ConditionBranch {
  return readTree(read(text));
}

function textOf(tree: ConditionBranch): string {
  const written = writeTree(tree);
  return written === undefined ? '' : printExpression(written);
}

describe('a condition as a tree', () => {
  it('is the same condition again when it is written, whatever it was', () => {
    fc.assert(
      fc.property(expressions, (expression) => {
        const once = printExpression(read(printExpression(expression)));
        expect(textOf(treeOf(once))).toBe(once);
      }),
      { numRuns: 500 },
    );
  });

  it.each([
    ["toll > 1 AND (status = 'a' OR NOT (id = 1 OR id = 2))", ['all', 'any', 'none']],
    ['NOT (id = 1 OR id = 2)', ['none']],
    ["HAS(passages, status = 'a' OR toll > 1)", ['all', 'any']],
    ['HAS(passages)', ['all', 'all']],
  ])('has its branches: %s', (text, joinings) => {
    const found: string[] = [];
    const walk = (part: ReturnType<typeof partAt>): void => {
      if (part?.kind === 'branch') {
        found.push(part.joining);
        part.parts.forEach(walk);
      } else if (part?.kind === 'has') walk(part.branch);
    };
    walk(treeOf(text));
    expect(found).toEqual(joinings);
    expect(textOf(treeOf(text))).toBe(text);
  });

  it('has the first and the last moment of a stretch as one part', () => {
    const text =
      "passed_at >= TIMESTAMP('2024-05-01T00:00:00Z') AND passed_at < TIMESTAMP('2024-05-02T00:00:00Z') AND id = 1";
    expect(treeOf(text).parts).toHaveLength(2);
    expect(textOf(treeOf(text))).toBe(text);
  });

  it('leaves out what says nothing yet', () => {
    const tree = inserted(treeOf('id = 1'), [1], branch('any', []));
    expect(tree.parts).toHaveLength(2);
    expect(textOf(tree)).toBe('id = 1');
    expect(textOf(branch('none', []))).toBe('');
  });

  it('is changed part by part', () => {
    const tree = treeOf('id = 1 AND (id = 2 OR id = 3)');
    const four = { kind: 'condition' as const, expression: read('id = 4') };
    expect(textOf(replaced(tree, [1, 0], four))).toBe('id = 1 AND (id = 4 OR id = 3)');
    expect(textOf(replaced(tree, [1, 0], undefined))).toBe('id = 1 AND id = 3');
    expect(textOf(replaced(tree, [0], undefined))).toBe('id = 2 OR id = 3');
    expect(textOf(inserted(tree, [1, 2], four))).toBe('id = 1 AND (id = 2 OR id = 3 OR id = 4)');
  });

  it.each([
    [[0], [3], 'id = 2 AND (id = 3 OR id = 4) AND id = 1'],
    [[1], [0], 'id = 2 AND id = 1 AND (id = 3 OR id = 4)'],
    [[0], [2, 1], 'id = 2 AND (id = 3 OR id = 1 OR id = 4)'],
    [[2, 0], [0], 'id = 3 AND id = 1 AND id = 2 AND id = 4'],
    [[2, 1], [2, 0], 'id = 1 AND id = 2 AND (id = 4 OR id = 3)'],
    // A branch does not move into itself, nor what is not there.
    [[2], [2, 1], 'id = 1 AND id = 2 AND (id = 3 OR id = 4)'],
    [[9], [0], 'id = 1 AND id = 2 AND (id = 3 OR id = 4)'],
  ])('has a part moved from %j to %j', (from, to, after) => {
    const tree = treeOf('id = 1 AND id = 2 AND (id = 3 OR id = 4)');
    expect(textOf(movedTo(tree, from, to))).toBe(after);
  });

  it('keeps all its parts wherever one is moved', () => {
    const tree = treeOf('id = 1 AND (id = 2 OR id = 3 AND id = 4) AND NOT (id = 5 OR id = 6)');
    const places = placesIn(tree);
    const numbersIn = (text: string): readonly string[] => [...text.match(/\d/g)!].sort();
    fc.assert(
      fc.property(fc.constantFrom(...places), fc.constantFrom(...places), (from, to) => {
        const after = textOf(movedTo(tree, from, to));
        expect(numbersIn(after)).toEqual(['1', '2', '3', '4', '5', '6']);
      }),
    );
  });
});
