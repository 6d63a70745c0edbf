import type { Expression } from '../expression/index.ts';
import { calculate, decimal, printDecimal, trimmed } from '../decimal/index.ts';
import { nearest, problem, type Problem } from '../problem/index.ts';
import type { Term } from '../query/index.ts';
import {
  aggregateArguments,
  aggregateNames,
  aggregatesOf,
  encodingOf,
  isAggregateName,
  isNumeric,
  typeName,
  type AggregateName,
  type ColumnFormat,
  type ColumnType,
} from '../schema/index.ts';
import type { CheckedAggregate, CheckedScalar } from './checked.ts';
import { isCondition, type Checker } from './expression.ts';
import { labelOfTerm, valueLabelsOf } from './label.ts';
import { valueAs } from './value.ts';

const counted: ColumnType = { kind: 'integer', bits: 64 };
const float: ColumnType = { kind: 'float', bits: 64 };
const numeric: ColumnType = { kind: 'numeric' };

/** Those that give one of the values. */
const oneOfThem: ReadonlySet<AggregateName> = new Set(['min', 'max', 'percentile']);

/**
 * `sum(toll)`, `percentile(toll, 90)`, `count()`, and the same of some rows only, with a condition
 * behind the rest, `sum(toll, status = 'passed')`: an aggregate, or undefined with a problem.
 */
export function checkAggregate(
  { name, expression }: Term,
  checker: Checker,
  problems: Problem[],
): CheckedAggregate | undefined {
  const kind = kindOf(expression);
  if (kind === undefined || expression.kind !== 'call') {
    const near = expression.kind === 'call' ? nearest(expression.name, aggregateNames) : undefined;
    const facts = { near: near && `${near}()`, known: aggregateNames.join(', ') };
    problems.push(problem('unknown-aggregate', facts, expression.span));
    return undefined;
  }
  const { span } = expression;
  const condition = expression.args.at(-1);
  const [least, most] = aggregateArguments[kind];
  const conditional =
    condition !== undefined &&
    (isCondition(condition) || (expression.args.length > most && checker.isTruth(condition)));
  const args = conditional ? expression.args.slice(0, -1) : expression.args;
  if (args.length < least || args.length > most) {
    const facts = { name: kind, expected: args.length < least ? least : most, found: args.length };
    problems.push(problem('wrong-argument-count', facts, span));
    return undefined;
  }
  const [of, percent] = args;
  const argument = of && checker.scalar(of);
  const fraction = percent && fractionOf(percent, problems);
  const only = conditional ? checker.condition(condition) : undefined;
  if (conditional && only === undefined) return undefined;
  if (of !== undefined && argument === undefined) return undefined;
  if (percent !== undefined && fraction === undefined) return undefined;
  if (argument !== undefined && of !== undefined && !fits(kind, argument, of, problems)) {
    return undefined;
  }
  const type = resultOf(kind, argument?.type);
  const format = formatOf(kind, argument, type);
  return {
    kind,
    name,
    label: labelOfTerm(expression, argument),
    type,
    // A count is far from what a JSON number cannot hold.
    encoding: type === counted && kind !== 'sum' ? 'number' : encodingOf(type),
    ...(format === undefined ? {} : { format }),
    ...(oneOfThem.has(kind) ? valueLabelsOf(argument) : {}),
    ...(argument === undefined ? {} : { argument }),
    ...(only === undefined ? {} : { only }),
    ...(fraction === undefined ? {} : { fraction }),
  };
}

/** The aggregate that an expression is a call of. */
export function kindOf(expression: Expression): AggregateName | undefined {
  if (expression.kind !== 'call' || !isAggregateName(expression.name)) return undefined;
  return expression.name;
}

function fits(
  kind: AggregateName,
  argument: CheckedScalar,
  { span }: Expression,
  problems: Problem[],
): boolean {
  const { type } = argument;
  const allowed = argument.kind === 'column' ? argument.column.aggregates : aggregatesOf(type);
  if (allowed.includes(kind)) return true;
  const facts = {
    name: argument.kind === 'column' ? argument.column.name : 'this',
    aggregate: kind,
    type: typeName(type),
    allowed: allowed.join(', ') || undefined,
  };
  problems.push(problem('not-aggregable', facts, span));
  return false;
}

const hundredth = decimal('0.01');

/** 90 → "0.9", exactly. */
function fractionOf(percent: Expression, problems: Problem[]): string | undefined {
  const read = percent.kind === 'number' ? valueAs(percent, numeric) : undefined;
  const value = read !== undefined && 'value' in read ? Number(read.value) : NaN;
  if (read !== undefined && 'value' in read && value >= 0 && value <= 100) {
    const fraction = calculate('*', decimal(read.value), hundredth);
    if (fraction !== null) return printDecimal(trimmed(fraction));
  }
  const facts = { type: 'percentage', notation: '0 to 100' };
  problems.push(problem('invalid-value', facts, percent.span));
  return undefined;
}

function resultOf(kind: AggregateName, type: ColumnType | undefined): ColumnType {
  switch (kind) {
    case 'count':
    case 'distinct':
      return counted;
    case 'share':
      return float;
    case 'sum':
      if (type?.kind === 'float') return float;
      // As PostgreSQL adds them: whole numbers grow, and the widest ones become decimals.
      return type?.kind === 'integer' && type.bits !== 64 ? counted : numeric;
    case 'avg':
      return type?.kind === 'float' ? float : numeric;
    case 'median':
      if (type === undefined || !isNumeric(type)) return type ?? numeric;
      return type.kind === 'float' ? float : numeric;
    case 'min':
    case 'max':
    case 'percentile':
      return type ?? numeric;
    default:
      throw new Error(`unknown aggregate ${JSON.stringify(kind satisfies never)}`);
  }
}

/** Digits after the point of what has no natural end. */
const decimals = 2;

function formatOf(
  kind: AggregateName,
  argument: CheckedScalar | undefined,
  type: ColumnType,
): ColumnFormat | undefined {
  if (kind === 'count' || kind === 'distinct') return { kind: 'number', decimals: 0 };
  if (kind === 'share') return { kind: 'percent', decimals: 1 };
  const own = argument?.kind === 'column' ? argument.column.format : undefined;
  if ((kind !== 'avg' && kind !== 'median') || !isNumeric(type)) return own;
  if (own === undefined) return { kind: 'number', decimals };
  return own.kind === 'money' || (own.kind === 'number' && own.unit !== undefined)
    ? { decimals, ...own }
    : own;
}
