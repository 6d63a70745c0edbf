import { problem, type Problem } from '../problem/index.ts';
import { isLogical, type Expression } from '../expression/index.ts';
import { isComparable, isTextual, typeName } from '../schema/index.ts';
import type { CheckedExpression, CheckedScalar } from './checked.ts';
import { literalOf } from './fit.ts';
import { resolvedFunctions } from './functions.ts';
import type { Call } from './reporter.ts';
import { ScalarChecker, type Referring } from './scalar.ts';
import { relate, relationNamed, type Stretch } from './temporal.ts';
import { checkSearch } from './search.ts';
import { storedSelectionRows, membersOf, selectedRows } from './selected.ts';
import { literalType } from './value.ts';

/** Why a stored selection cannot be had. */
const notStored = {
  nowhere: 'no-records',
  unknown: 'unknown-selection',
  nested: 'nested-selection',
} as const;

/**
 * Checks one filter. Every error is pushed to `problems` with its place; a part that has one
 * comes back as undefined, and the rest is checked all the same.
 */
export class Checker extends ScalarChecker {
  override condition(expression: Expression): CheckedExpression | undefined {
    switch (expression.kind) {
      case 'and':
      case 'or': {
        const operands = expression.operands.map((operand) => this.condition(operand));
        const sound = operands.filter((operand) => operand !== undefined);
        if (sound.length < operands.length) return undefined;
        return { kind: expression.kind, operands: sound };
      }
      case 'not': {
        const operand = this.condition(expression.operand);
        return operand && { kind: 'not', operand };
      }
      case 'comparison': {
        const [left, right] = this.comparable([expression.left, expression.right]) ?? [];
        const { comparator } = expression;
        return left && right && { kind: 'comparison', comparator, left, right };
      }
      case 'between': {
        const { operand, low, high } = expression;
        const [value, from, to] = this.comparable([operand, low, high]) ?? [];
        return value && from && to && { kind: 'between', operand: value, low: from, high: to };
      }
      case 'in': {
        const sides = this.comparable([expression.operand, ...expression.members]);
        const [operand, ...members] = sides ?? [];
        return operand && { kind: 'in', operand, members };
      }
      case 'like':
        return this.like(expression);
      case 'isNull': {
        const operand = this.nullable(expression.operand);
        return operand && { kind: 'isNull', operand };
      }
      case 'call': {
        const relation = relationNamed(expression.name);
        if (relation !== undefined) return this.temporal(relation, expression);
        if (expression.name === 'selected') return this.selected(expression);
        return expression.name === 'has' ? this.has(expression) : this.truth(expression);
      }
      case 'property':
      case 'arithmetic':
      case 'interval':
      case 'unbounded':
      case 'array':
      case 'boolean':
      case 'text':
      case 'number':
      case 'date':
      case 'timestamp':
        return this.truth(expression);
      default:
        throw new Error(`unknown expression ${JSON.stringify(expression satisfies never)}`);
    }
  }

  /** What IS NULL is applied to: a value, a list, or a condition that may be unknown. */
  private nullable(expression: Expression): CheckedScalar | undefined {
    if (!isCondition(expression)) return this.scalar(expression);
    const condition = this.condition(expression);
    return condition && { kind: 'condition', condition, type: { kind: 'boolean' } };
  }

  private truth(expression: Expression): CheckedExpression | undefined {
    const operand = this.scalar(expression);
    if (operand === undefined) return undefined;
    if (operand.type.kind === 'boolean') return { kind: 'truth', operand };
    this.report('not-a-condition', { found: `a ${typeName(operand.type)} alone` }, expression);
    return undefined;
  }

  private like(expression: Extract<Expression, { kind: 'like' }>): CheckedExpression | undefined {
    const operand = this.argument(expression.operand, 'text');
    const pattern = this.side(expression.pattern);
    if (operand === undefined || pattern === undefined) return undefined;
    const scalar = pattern.kind === 'typed' ? pattern.scalar : this.settle(pattern.literal);
    const literal = scalar && literalOf(scalar);
    if (scalar === undefined || literal === undefined || !isTextual(scalar.type)) {
      this.report('pattern-not-literal', {}, expression.pattern);
      return undefined;
    }
    if (/(?<!\\)(?:\\\\)*\\$/.test(literal)) {
      this.report('pattern-ends-in-escape', {}, expression.pattern);
      return undefined;
    }
    return { kind: 'like', operand, pattern: scalar };
  }

  // SELECTED(key, …)
  private selected(call: Call): CheckedExpression | undefined {
    const { problems } = this;
    const named = membersOf(call, problems);
    if (named === undefined) return undefined;
    const operands = named.storedSelections.map(({ id, span }) => this.storedSelection(id, span));
    if (named.keys.length > 0 || operands.length === 0) {
      operands.unshift(selectedRows(named.keys, this.lookup.table, call.span, problems));
    }
    const sound = operands.filter((one) => one !== undefined);
    if (sound.length < operands.length) return undefined;
    const [only] = sound;
    return sound.length === 1 ? only : { kind: 'or', operands: sound };
  }

  /** A selection that is stored elsewhere. */
  private storedSelection(id: string, span: Call['span']): CheckedExpression | undefined {
    const { table, storedSelections: storedSelection } = this.lookup;
    const selection = storedSelection(id);
    if (typeof selection === 'string') {
      this.problems.push(problem(notStored[selection], {}, span));
      return undefined;
    }
    if (selection.table !== table.name) {
      const facts = { table: selection.table };
      this.problems.push(problem('selection-of-another-table', facts, span));
      return undefined;
    }
    if (selection.kind === 'keys')
      return storedSelectionRows(selection, table, span, this.problems);
    const found: Problem[] = [];
    const { filter, search, except } = selection;
    const condition = filter && new Checker(this.lookup, this.now, found).condition(filter);
    const words = search && checkSearch({ search }, this.lookup, found);
    const others =
      except.length === 0 ? undefined : storedSelectionRows(selection, table, span, this.problems);
    if (found.length > 0) {
      const text = found.map(({ message }) => message).join(' ');
      this.problems.push(problem('selection-outdated', { message: text }, span));
    }
    if (found.length > 0 || (except.length > 0 && others === undefined)) return undefined;
    return {
      kind: 'matching',
      ...(condition && { filter: condition }),
      ...(words && { search: words }),
      ...(others && { except: others }),
    };
  }

  // HAS(relationship [, condition])
  private has(call: Call): CheckedExpression | undefined {
    const found = this.referring(call);
    return found && { kind: 'has', ...found };
  }

  protected override referring(call: Call): Referring | undefined {
    const { name, args } = call;
    const [named, condition] = args;
    if (named?.kind !== 'property' || args.length > 2) {
      if (named === undefined || args.length > 2) this.wrongCount(call, 2);
      else {
        const facts = { expected: 'the name of a referring table', found: 'something else' };
        this.report('type-mismatch', { ...facts, hint: resolvedFunctions[name] }, named);
      }
      return undefined;
    }
    const found = this.lookup.referring(named, this.problems);
    if (found === undefined) return undefined;
    const { relationship, inside } = found;
    if (condition === undefined) return { relationship };
    const checked = new Checker(inside, this.now, this.problems).condition(condition);
    return checked && { relationship, condition: checked };
  }

  private temporal(
    relation: Parameters<typeof relate>[0],
    call: Call,
  ): CheckedExpression | undefined {
    const [first, second] = call.args;
    if (first === undefined || second === undefined || call.args.length !== 2) {
      this.wrongCount(call, 2);
      return undefined;
    }
    const [a, b] = [this.stretch(first), this.stretch(second)];
    return a && b && relate(relation, a, b);
  }

  private stretch(expression: Expression): Stretch | undefined {
    if (expression.kind !== 'interval') {
      const instant = this.argument(expression, 'time');
      return instant && { start: instant, end: instant };
    }
    const end = (bound: Expression): CheckedScalar | 'open' | undefined =>
      bound.kind === 'unbounded' ? 'open' : this.argument(bound, 'time');
    const [from, to] = [end(expression.start), end(expression.end)];
    if (from === undefined || to === undefined) return undefined;
    return { start: from === 'open' ? undefined : from, end: to === 'open' ? undefined : to };
  }

  /** Settles expressions that are compared with each other on one type. */
  private comparable(expressions: readonly Expression[]): readonly CheckedScalar[] | undefined {
    const sides = expressions.map((expression) => this.side(expression));
    const leader = sides.find((side) => side?.kind === 'typed');
    const [head] = sides;
    // Only literals: the first one says the type.
    const type =
      leader?.kind === 'typed'
        ? leader.scalar.type
        : head?.kind === 'literal'
          ? literalType(head.literal)
          : undefined;
    const settled = sides.map((side, index) => {
      const expression = expressions[index];
      if (side === undefined || expression === undefined || type === undefined) return undefined;
      if (side.kind === 'typed') return this.alike(side.scalar, type, expression);
      // What cannot be compared at all has been reported already.
      return leader !== undefined && !isComparable(type)
        ? undefined
        : this.settle(side.literal, type);
    });
    const sound = settled.filter((scalar) => scalar !== undefined);
    return sound.length === settled.length ? sound : undefined;
  }

  /** Whether an expression is true or false by its type, as a boolean column is. */
  isTruth(expression: Expression): boolean {
    return this.silent().scalar(expression)?.type.kind === 'boolean';
  }

  protected override silent(): Checker {
    return new Checker(this.lookup, this.now, []);
  }
}

/** Whether an expression is true or false by its form, whatever its columns are. */
export function isCondition(expression: Expression): boolean {
  if (isLogical(expression)) return true;
  if (expression.kind !== 'call') return false;
  const { name } = expression;
  return name === 'has' || name === 'selected' || relationNamed(name) !== undefined;
}
