import type { Expression } from '../expression/index.ts';
import { problem, type Problem, type ProblemCode, type ProblemFacts } from '../problem/index.ts';
import { isComparable, typeName, type ColumnType } from '../schema/index.ts';
import type { CheckedScalar } from './checked.ts';
import { areAlike } from './fit.ts';
import { literalType, valueAs, type Literal } from './value.ts';

/** A call of a function. */
export type Call = Extract<Expression, { kind: 'call' }>;

/** Fits values to types; what does not fit is pushed to `problems` with its place. */
export class Reporter {
  protected readonly problems: Problem[];

  constructor(problems: Problem[]) {
    this.problems = problems;
  }

  /** A literal as a value: of its own type, or of the one it is compared with. */
  protected settle(
    literal: Literal,
    type: ColumnType = literalType(literal),
  ): CheckedScalar | undefined {
    const read = valueAs(literal, type);
    if ('value' in read) return { kind: 'value', value: read.value, type: read.type };
    const { start, end } = literal.span;
    this.problems.push({ ...read.problem, position: start, length: end - start });
    return undefined;
  }

  protected alike(
    scalar: CheckedScalar,
    type: ColumnType,
    expression: Expression,
  ): CheckedScalar | undefined {
    if (!isComparable(scalar.type)) {
      const name = scalar.kind === 'column' ? scalar.column.name : 'here';
      this.report('not-comparable', { name, type: typeName(scalar.type) }, expression);
      return undefined;
    }
    if (areAlike(scalar.type, type)) return scalar;
    const facts = { expected: `a ${typeName(type)}`, found: `a ${typeName(scalar.type)}` };
    this.report('type-mismatch', facts, expression);
    return undefined;
  }

  protected mismatch(expected: string, type: ColumnType, expression: Expression): void {
    this.report('type-mismatch', { expected, found: `a ${typeName(type)}` }, expression);
  }

  protected wrongCount({ name, args, span }: Call, expected: number): undefined {
    const facts = { name: name.toUpperCase(), expected, found: args.length };
    this.problems.push(problem('wrong-argument-count', facts, span));
    return undefined;
  }

  protected report<Code extends ProblemCode>(
    code: Code,
    facts: ProblemFacts<Code>,
    { span }: Expression,
  ): void {
    this.problems.push(problem(code, facts, span));
  }
}
