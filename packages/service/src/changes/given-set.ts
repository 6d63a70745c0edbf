import { changeSetBody, mostChanges, type Change } from '@ephoros/core/change';
import { JsonRefusal, readJson, type JsonNode } from '@ephoros/core/expression';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { mostProblems, Refused } from '../query/index.ts';
import type { GivenSet } from './saving.ts';

/** Levels of a body: those of a value in JSON, and the body's own. */
const mostLevels = 310;

/** A set of changes from its JSON text, with all digits of its numbers. @throws Refused */
export function readGivenSet(text: string): Omit<GivenSet, 'table'> {
  const root = nodeOf(text);
  const list = root.kind === 'object' ? root.members.get('changes') : undefined;
  const items = list?.kind === 'array' ? list.items : [];
  if (items.length > mostChanges) {
    throw new Refused([problem('too-many-changes', { most: mostChanges })]);
  }
  const read = changeSetBody.safeParse(JSON.parse(text));
  if (!read.success) throw new Refused(read.error.issues.slice(0, mostProblems).map(problemOf));
  const changes = read.data.changes.map((change): Change => {
    return change.kind === 'change' || change.kind === 'remove'
      ? { ...change, key: change.key.map(String) }
      : change;
  });
  const raw: GivenSet['raw'] = (place, member, column) => {
    const span = memberOf(memberOf(items[place], member), column)?.span;
    return span && text.slice(span.start, span.end);
  };
  return { changes, text, raw };
}

function memberOf(node: JsonNode | undefined, name: string): JsonNode | undefined {
  return node?.kind === 'object' ? node.members.get(name) : undefined;
}

function nodeOf(text: string): JsonNode {
  try {
    return readJson(text, mostLevels);
  } catch (thrown) {
    if (thrown instanceof JsonRefusal && thrown.problem.code === 'repeated-member') {
      throw new Refused([thrown.problem]);
    }
    throw new Refused([problem('malformed-body', { expected: 'JSON' })]);
  }
}

/** What is wrong with the form of a set, at its change. */
function problemOf(issue: {
  readonly path: readonly PropertyKey[];
  readonly message: string;
}): Problem {
  const [list, change, ...inside] = issue.path;
  const place = inside.map(String).join('.');
  if (list !== 'changes' || typeof change !== 'number') {
    const what = list === undefined ? 'the body' : String(list);
    const expected = `an object with a list of changes (${what}: ${issue.message})`;
    return problem('malformed-body', { expected });
  }
  const expected = `right in change ${change + 1}${place === '' ? '' : `, ${place}`}: ${issue.message}`;
  const [violation = problem('malformed-body', { expected })] = inParameter(`changes[${change}]`, [
    problem('malformed-body', { expected }),
  ]);
  return { ...violation, change };
}
