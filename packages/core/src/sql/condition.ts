import { sql, type SQL } from './fragment.ts';
import type { CheckedExpression, CheckedScalar } from '../check/index.ts';
import type { Comparator } from '../expression/index.ts';
import type { ColumnType } from '../schema/index.ts';
import { bin } from './bin.ts';
import { castOf, listOf, valueOf } from './cast.ts';
import { compute } from './function.ts';
import type { Scope } from './scope.ts';

const comparators: Readonly<Record<Comparator, SQL>> = {
  '=': sql` = `,
  '<>': sql` <> `,
  '<': sql` < `,
  '<=': sql` <= `,
  '>': sql` > `,
  '>=': sql` >= `,
};

/** A condition in SQL. An empty OR is false, an empty AND true; null follows SQL's own logic. */
export function condition(expression: CheckedExpression, scope: Scope): SQL {
  switch (expression.kind) {
    case 'and':
      return junction(expression.operands, scope, sql` and `, sql`true`);
    case 'or':
      return junction(expression.operands, scope, sql` or `, sql`false`);
    case 'not':
      return sql`not (${condition(expression.operand, scope)})`;
    case 'comparison': {
      const { left, comparator, right } = expression;
      return sql`${scalar(left, scope)}${comparators[comparator]}${scalar(right, scope)}`;
    }
    case 'between': {
      const { operand, low, high } = expression;
      const [from, to] = [scalar(low, scope), scalar(high, scope)];
      return sql`${scalar(operand, scope)} between ${from} and ${to}`;
    }
    case 'in':
      return membership(expression.operand, expression.members, scope);
    case 'like':
      return sql`${scalar(expression.operand, scope)} like ${scalar(expression.pattern, scope)}`;
    case 'isNull':
      return sql`${scalar(expression.operand, scope)} is null`;
    case 'truth':
      return scalar(expression.operand, scope);
    case 'has': {
      const { scope: inner, tie } = scope.inside(expression.relationship);
      const { condition: inside } = expression;
      const test = inside ? sql` and ${condition(inside, inner)}` : sql``;
      return sql`exists (select 1${inner.from()} where ${tie}${test})`;
    }
    default:
      throw new Error(`no SQL for ${JSON.stringify(expression satisfies never)}`);
  }
}

function junction(operands: readonly CheckedExpression[], scope: Scope, by: SQL, none: SQL): SQL {
  if (operands.length === 0) return none;
  const parts = operands.map((operand) => condition(operand, scope));
  return sql`(${sql.join(parts, by)})`;
}

/** One bound list where all members are values of one type, so that the text stays short. */
function membership(operand: CheckedScalar, members: readonly CheckedScalar[], scope: Scope): SQL {
  const [first] = members;
  const value = scalar(operand, scope);
  if (first === undefined) return sql`false`;
  const values = members.flatMap((one) =>
    one.kind === 'value' && sameType(one.type, first.type) ? [one.value] : [],
  );
  if (values.length === members.length) return sql`${value} = any(${listOf(values, first.type)})`;
  const list = members.map((member) => scalar(member, scope));
  return sql`${value} in (${sql.join(list, sql`, `)})`;
}

function sameType(one: ColumnType, other: ColumnType): boolean {
  if (one.kind !== other.kind) return false;
  return !('bits' in one) || !('bits' in other) || one.bits === other.bits;
}

type Arithmetic = Extract<CheckedScalar, { kind: 'arithmetic' }>;

/** A value in SQL. */
export function scalar(one: CheckedScalar, scope: Scope): SQL {
  switch (one.kind) {
    case 'column':
      return scope.column(one.column);
    case 'value':
      return valueOf(one.value, one.type);
    case 'list':
      return listOf(one.members, one.type.kind === 'array' ? one.type.element : one.type);
    case 'arithmetic':
      return arithmetic(one, scope);
    case 'function': {
      const args = one.args.map((argument) => scalar(argument, scope));
      return one.name === 'bin' ? bin(one, args) : compute(one.name, args);
    }
    case 'count': {
      const { scope: inner, tie } = scope.inside(one.relationship);
      const test = one.condition ? sql` and ${condition(one.condition, inner)}` : sql``;
      return sql`(select count(*)${inner.from()} where ${tie}${test})`;
    }
    default:
      throw new Error(`no SQL for ${JSON.stringify(one satisfies never)}`);
  }
}

/** Cast on both sides, so that no narrow type overflows; no division by zero reaches the database. */
function arithmetic({ operator, left, right, type }: Arithmetic, scope: Scope): SQL {
  const cast = castOf(type) ?? sql`numeric`;
  const [a, b] = [left, right].map((side) => sql`${scalar(side, scope)}::${cast}`);
  if (a === undefined || b === undefined) throw new Error('arithmetic needs two sides');
  switch (operator) {
    case '+':
      return sql`(${a} + ${b})`;
    case '-':
      return sql`(${a} - ${b})`;
    case '*':
      return sql`(${a} * ${b})`;
    case '/':
      return sql`(${a} / nullif(${b}, 0))`;
    case '%':
      return sql`mod(${a}, nullif(${b}, 0))`;
    case 'div':
      return sql`div(${a}, nullif(${b}, 0))`;
    case '^':
      return sql`power(${a}, ${b})`;
    default:
      throw new Error(`no SQL for ${JSON.stringify(operator satisfies never)}`);
  }
}
