import { and, not, property, type Expression } from '../expression/index.ts';

/** How the parts of a branch are joined: all of them hold, any of them does, or none. */
export type Joining = 'all' | 'any' | 'none';

/** Conditions joined into one; without any it says nothing. */
export interface ConditionBranch {
  readonly kind: 'branch';
  readonly joining: Joining;
  readonly parts: readonly ConditionPart[];
}

/** That there are rows of another table that refer to the row, and for which a branch holds. */
export interface ConditionHas {
  readonly kind: 'has';
  /** The relationship, such as `passages`. */
  readonly relationship: string;
  readonly branch: ConditionBranch;
}

/** A condition as a tree of branches, to be changed part by part. */
export type ConditionPart =
  ConditionBranch | ConditionHas | { readonly kind: 'condition'; readonly expression: Expression };

/** A part's place: its number in its branch, in the branch around that, from the top. */
export type PartPath = readonly number[];

const nowhere = { start: 0, end: 0 };

/** The tree that a filter says: always a branch, without parts for no filter. */
export function readTree(filter: Expression | undefined): ConditionBranch {
  if (filter === undefined) return branch('all', []);
  const part = readPart(filter);
  return part.kind === 'branch' ? part : branch('all', [part]);
}

function readPart(expression: Expression): ConditionPart {
  switch (expression.kind) {
    case 'and':
      return branch('all', readAll(expression.operands));
    case 'or':
      return branch('any', expression.operands.map(readPart));
    case 'not': {
      const { operand } = expression;
      if (operand.kind !== 'or' && operand.kind !== 'and') break;
      if (operand.kind === 'or') return branch('none', operand.operands.map(readPart));
      return branch('none', [readPart(operand)]);
    }
    case 'call': {
      const [named, condition] = expression.args;
      if (expression.name !== 'has' || named?.kind !== 'property') break;
      return { kind: 'has', relationship: named.name, branch: readTree(condition) };
    }
    default:
  }
  return { kind: 'condition', expression };
}

/** From and to of one moment, such as a day, are one condition. */
function readAll(operands: readonly Expression[]): readonly ConditionPart[] {
  const parts: ConditionPart[] = [];
  for (const operand of operands) {
    const before = parts.at(-1);
    if (before?.kind === 'condition' && isStretch(before.expression, operand)) {
      const both: Expression = {
        kind: 'and',
        operands: [before.expression, operand],
        span: nowhere,
      };
      parts[parts.length - 1] = { kind: 'condition', expression: both };
    } else parts.push(readPart(operand));
  }
  return parts;
}

function isSplit([from, to, ...others]: readonly Expression[]): boolean {
  return from !== undefined && to !== undefined && others.length === 0 && isStretch(from, to);
}

function isStretch(from: Expression, to: Expression): boolean {
  return (
    from.kind === 'comparison' &&
    to.kind === 'comparison' &&
    from.comparator === '>=' &&
    (to.comparator === '<' || to.comparator === '<=') &&
    from.left.kind === 'property' &&
    to.left.kind === 'property' &&
    from.left.name === to.left.name &&
    (from.right.kind === 'timestamp' || from.right.kind === 'date')
  );
}

/** The filter that a tree says; parts that say nothing, such as a branch to be filled, are left out. */
export function writeTree(part: ConditionPart): Expression | undefined {
  switch (part.kind) {
    case 'condition':
      return part.expression;
    case 'has': {
      const condition = writeTree(part.branch);
      const args = [property(part.relationship), ...(condition === undefined ? [] : [condition])];
      return { kind: 'call', name: 'has', args, span: nowhere };
    }
    case 'branch': {
      const written = part.parts.flatMap((one) => writeTree(one) ?? []);
      // A stretch of time is two conditions among all others.
      const operands =
        part.joining === 'all'
          ? written.flatMap((one) =>
              one.kind === 'and' && isSplit(one.operands) ? one.operands : [one],
            )
          : written;
      if (operands.length === 0) return undefined;
      if (part.joining === 'all') return and(operands);
      const [only] = operands;
      const any: Expression =
        operands.length === 1 && only !== undefined
          ? only
          : { kind: 'or', operands, span: nowhere };
      return part.joining === 'any' ? any : not(any);
    }
    default:
      throw new Error(`no condition for ${JSON.stringify(part satisfies never)}`);
  }
}

export function branch(joining: Joining, parts: readonly ConditionPart[]): ConditionBranch {
  return { kind: 'branch', joining, parts };
}

/** The parts within a part. */
export function partsIn(part: ConditionPart): readonly ConditionPart[] {
  if (part.kind === 'branch') return part.parts;
  return part.kind === 'has' ? part.branch.parts : [];
}

/** The part at a place; undefined where there is none. */
export function partAt(tree: ConditionPart, path: PartPath): ConditionPart | undefined {
  return path.reduce<ConditionPart | undefined>((part, step) => part && partsIn(part)[step], tree);
}

/** The tree with other parts in a branch. */
function withParts(
  part: ConditionPart,
  change: (parts: readonly ConditionPart[]) => readonly ConditionPart[],
): ConditionPart {
  if (part.kind === 'branch') return { ...part, parts: change(part.parts) };
  if (part.kind === 'has') {
    return { ...part, branch: { ...part.branch, parts: change(part.branch.parts) } };
  }
  return part;
}

/** The tree with something else at a place; with undefined without what stands there. */
export function replaced<Tree extends ConditionPart>(
  tree: Tree,
  [step, ...rest]: PartPath,
  next: ConditionPart | undefined,
): Tree {
  if (step === undefined) return (next ?? tree) as Tree;
  return withParts(tree, (parts) =>
    parts.flatMap((part, index) => {
      if (index !== step) return [part];
      if (rest.length > 0) return [replaced(part, rest, next)];
      return next === undefined ? [] : [next];
    }),
  ) as Tree;
}

/** The tree with a part more, at a place among others. */
export function inserted<Tree extends ConditionPart>(
  tree: Tree,
  [step, ...rest]: PartPath,
  part: ConditionPart,
): Tree {
  if (step === undefined) return tree;
  return withParts(tree, (parts) =>
    rest.length === 0
      ? [...parts.slice(0, step), part, ...parts.slice(step)]
      : parts.map((one, index) => (index === step ? inserted(one, rest, part) : one)),
  ) as Tree;
}

/**
 * The tree with a part moved to before the place `to`, as it is before the move. A part does not move
 * into itself; the tree stays as it is then.
 */
export function movedTo<Tree extends ConditionPart>(
  tree: Tree,
  from: PartPath,
  to: PartPath,
): Tree {
  const part = partAt(tree, from);
  const isWithin = from.every((step, index) => to[index] === step);
  if (part === undefined || (isWithin && to.length > from.length)) return tree;
  const depth = from.length - 1;
  const sameBranch = from.slice(0, depth).every((step, index) => to[index] === step);
  const at = from[depth] ?? 0;
  const passes = sameBranch && to.length > depth && (to[depth] ?? 0) > at;
  // What stood behind it moves up.
  const target = passes ? to.map((step, index) => (index === depth ? step - 1 : step)) : to;
  return inserted(replaced(tree, from, undefined), target, part);
}

/** The places that a part could be moved to, in the order in which they are read. */
export function placesIn(tree: ConditionPart, path: PartPath = []): readonly PartPath[] {
  const parts = partsIn(tree);
  if (tree.kind === 'condition') return [];
  return [
    ...parts.flatMap((part, index) => [[...path, index], ...placesIn(part, [...path, index])]),
    [...path, parts.length],
  ];
}
