import fc from 'fast-check';
import { Outline, type LinePath } from './index.ts';

/** The plain way: all lines one after the other. */
interface Plain {
  readonly children: (Plain | undefined)[];
}

const plainOf = (count: number): Plain => ({
  children: Array.from({ length: count }, () => undefined),
});

function linesOf(plain: Plain, path: LinePath = []): LinePath[] {
  return plain.children.flatMap((child, index) => {
    const own = [...path, index];
    return [own, ...(child === undefined ? [] : linesOf(child, own))];
  });
}

function parentOf(plain: Plain, path: LinePath): Plain | undefined {
  let at: Plain | undefined = plain;
  for (const index of path.slice(0, -1)) at = at?.children[index];
  return at;
}

const action = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({ kind: fc.constant('open' as const), line: fc.nat(), count: fc.nat(40) }),
  },
  { weight: 3, arbitrary: fc.record({ kind: fc.constant('close' as const), line: fc.nat() }) },
  {
    weight: 1,
    arbitrary: fc.record({
      kind: fc.constant('resize' as const),
      line: fc.nat(),
      count: fc.nat(40),
    }),
  },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('close all' as const) }) },
);

describe('an outline', () => {
  it('stands where a plain list of its lines has them, whatever is opened and closed', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.array(action, { maxLength: 60 }),
        (count, actions) => {
          const outline = new Outline();
          outline.resize([], count);
          const plain = plainOf(count);
          for (const one of actions) {
            const lines = linesOf(plain);
            if (one.kind === 'close all') {
              outline.closeAll();
              plain.children.fill(undefined);
            } else {
              const path = lines[one.line % lines.length] ?? [0];
              const index = path.at(-1) ?? 0;
              const parent = parentOf(plain, path);
              const child = parent?.children[index];
              if (one.kind === 'close') {
                outline.close(path);
                if (parent) parent.children[index] = undefined;
              } else if (one.kind === 'open') {
                outline.open(path, one.count);
                if (parent) parent.children[index] ??= plainOf(one.count);
              } else if (child !== undefined) {
                outline.resize(path, one.count);
                const remaining = child.children.slice(0, one.count);
                const missing = one.count - remaining.length;
                child.children.splice(0, Infinity, ...remaining, ...plainOf(missing).children);
              }
            }
            const after = linesOf(plain);
            expect(outline.length).toBe(after.length);
            expect(after.map((_line, position) => outline.at(position))).toEqual(after);
            expect(after.map((path) => outline.positionOf(path))).toEqual(after.map((_, at) => at));
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  it('shows a line of a closed group where the group stands', () => {
    const outline = new Outline();
    outline.resize([], 10);
    outline.open([4], 100);
    outline.open([4, 7], 5);
    expect(outline.positionOf([4, 7, 3])).toBe(4 + 1 + 7 + 1 + 3);
    outline.close([4, 7]);
    expect(outline.positionOf([4, 7, 3])).toBe(12);
    outline.close([4]);
    expect(outline.positionOf([4, 7, 3])).toBe(4);
    expect(outline.length).toBe(10);
  });

  it('finds its way through two thousand groups with a million rows open', () => {
    const outline = new Outline();
    outline.resize([], 2_000);
    for (let index = 0; index < 2_000; index += 1) outline.open([index], 500);
    expect(outline.length).toBe(2_000 * 501);
    for (const position of [0, 1, 500, 501, 502, 500_999, 1_001_999]) {
      const path = [Math.floor(position / 501), (position % 501) - 1].slice(
        0,
        position % 501 === 0 ? 1 : 2,
      );
      expect(outline.at(position)).toEqual(path);
      expect(outline.positionOf(path)).toBe(position);
    }
  });

  it('takes no room for what is closed', () => {
    const outline = new Outline();
    outline.resize([], 4_000_000_000);
    outline.open([3_999_999_999], 3);
    expect(outline.length).toBe(4_000_000_003);
    expect(outline.at(4_000_000_001)).toEqual([3_999_999_999, 1]);
  });
});
