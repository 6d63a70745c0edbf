import { parseExpression } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { mostPaintRules, tones } from '../schema/index.ts';
import type { PaintRule } from './paint.ts';

/** Reads rules from JSON, whatever it is. What cannot be read is a problem, and the rest is stored. */
export function readPaint(read: unknown): {
  readonly rules: readonly PaintRule[];
  readonly problems: readonly Problem[];
} {
  if (!Array.isArray(read) || read.length > mostPaintRules) {
    return { rules: [], problems: [malformed()] };
  }
  const problems: Problem[] = [];
  const rules = read.flatMap((one: unknown): readonly PaintRule[] => {
    const rule = readRule(one);
    if ('kind' in rule) return [rule];
    problems.push(...rule.problems);
    return [];
  });
  return { rules, problems };
}

function readRule(one: unknown): PaintRule | { readonly problems: readonly Problem[] } {
  const refused = { problems: [malformed()] };
  if (typeof one !== 'object' || one === null) return refused;
  const { when, tone, column, bar, scale, from, to, ...others } = one as Record<string, unknown>;
  if (Object.keys(others).length > 0) return refused;
  if (when !== undefined) {
    const known = tones.find((name) => name === tone);
    const named = column === undefined || isName(column);
    const bare = bar === undefined && scale === undefined && from === undefined && to === undefined;
    if (typeof when !== 'string' || known === undefined || !named || !bare) return refused;
    const filter = parseExpression(when);
    if ('problems' in filter) {
      // The place is one in the rule's own text, which is a part of the parameter.
      return {
        problems: filter.problems.map(({ code, message, hint }) => ({
          code,
          message: `In the paint rule "${when}": ${message}`,
          ...(hint === undefined ? {} : { hint }),
        })),
      };
    }
    return {
      kind: 'tone',
      when: filter.expression,
      tone: known,
      ...(column !== undefined && { column }),
    };
  }
  const kind = bar === undefined ? 'scale' : 'bar';
  const of = bar ?? scale;
  const several = (bar !== undefined && scale !== undefined) || column !== undefined;
  if (!isName(of) || several || tone !== undefined || !isEnd(from) || !isEnd(to)) return refused;
  return {
    kind,
    column: of,
    ...(from !== undefined && { from }),
    ...(to !== undefined && { to }),
  };
}

function isName(value: unknown): value is string {
  return typeof value === 'string' && value !== '';
}

function isEnd(value: unknown): value is number | undefined {
  return value === undefined || (typeof value === 'number' && Number.isFinite(value));
}

function malformed(): Problem {
  const expected =
    'a JSON list of rules such as {"when":"toll > 100","tone":"warn","column":"toll"} or ' +
    `{"bar":"toll"}, ${mostPaintRules} at most, with a tone of ${tones.join(', ')}`;
  return problem('malformed-view', { expected });
}
