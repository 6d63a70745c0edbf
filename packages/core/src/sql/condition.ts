import { sql, type SQL } from './fragment.ts';
import type { CheckedExpression, CheckedScalar } from '../check/index.ts';
import type { Comparator } from '../expression/index.ts';
import { ignoresCase, type ColumnType } from '../schema/index.ts';
import { bin } from './bin.ts';
import { castOf, columnValue, comparable, listOf, longListOf, plainText, valueOf } from './cast.ts';
import { compute } from './function.ts';
import { searchTest } from './search-test.ts';
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
      return like(expression, scope);
    case 'isNull':
      return sql`${scalar(expression.operand, scope)} is null`;
    case 'truth':
      return scalar(expression.operand, scope);
    case 'selected':
      return selected(expression, scope);
    case 'matching': {
      const { filter, search, except } = expression;
      const tests = [
        ...(filter ? [condition(filter, scope)] : []),
        ...(search ? [searchTest(search, scope)] : []),
        ...(except ? [sql`not (${condition(except, scope)})`] : []),
      ];
      if (tests.length === 0) return sql`true`;
      return sql`coalesce((${sql.join(tests, sql` and `)}), false)`;
    }
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

function like(
  { operand, pattern }: Extract<CheckedExpression, { kind: 'like' }>,
  scope: Scope,
): SQL {
  const value = scalar(operand, scope);
  // What ignores letter case does so here as well.
  const text = ignoresCase(operand.type) ? value : plainText(value, operand.type);
  return sql`${text} like ${scalar(pattern, scope)}`;
}

/** Compared in the types that the columns of the key have, whatever these are. */
function selected(
  { columns, keys }: Extract<CheckedExpression, { kind: 'selected' }>,
  scope: Scope,
): SQL {
  if (keys.length === 0) return sql`false`;
  if (keys.length > mostListed) return amongMany({ columns, keys }, scope);
  const row = (parts: readonly SQL[]): SQL =>
    parts.length === 1 ? sql`${sql.join(parts, sql`, `)}` : sql`(${sql.join(parts, sql`, `)})`;
  const own = row(columns.map((column) => comparable(scope.column(column), column.type)));
  const rows = keys.map((parts) =>
    row(columns.map(({ type }, index) => valueOf(parts[index]?.value ?? '', type))),
  );
  return sql`${own} in (${sql.join(rows, sql`, `)})`;
}

/** Keys that are bound one by one; of more, each part of the key is one bound list. */
const mostListed = 100;

type Keys = Pick<Extract<CheckedExpression, { kind: 'selected' }>, 'columns' | 'keys'>;

const lists = new WeakMap<Keys['keys'], readonly SQL[]>();

function amongMany({ columns, keys }: Keys, scope: Scope): SQL {
  const known =
    lists.get(keys) ??
    columns.map(({ type }, index) =>
      longListOf(
        keys.map((parts) => parts[index]?.value ?? ''),
        type,
      ),
    );
  lists.set(keys, known);
  const own = columns.map((column) => comparable(scope.column(column), column.type));
  const [column, list] = [own[0], known[0]];
  if (own.length === 1 && column !== undefined && list !== undefined) {
    return sql`${column} = any(${list})`;
  }
  return sql`(${sql.join(own, sql`, `)}) in (select * from unnest(${sql.join(known, sql`, `)}))`;
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
  if (one.kind !== other.kind || one.databaseType !== other.databaseType) return false;
  if ('zone' in one && 'zone' in other && one.zone !== other.zone) return false;
  return !('bits' in one) || !('bits' in other) || one.bits === other.bits;
}

type Arithmetic = Extract<CheckedScalar, { kind: 'arithmetic' }>;

/** A value in SQL. */
export function scalar(one: CheckedScalar, scope: Scope): SQL {
  switch (one.kind) {
    case 'column':
      return columnValue(scope.column(one.column), one.column.type);
    case 'value':
      return valueOf(one.value, one.type);
    case 'list':
      return list(one, scope);
    case 'condition':
      return sql`(${condition(one.condition, scope)})`;
    case 'arithmetic':
      return arithmetic(one, scope);
    case 'function': {
      if (one.args.some(({ type }) => type.kind === 'array')) return listTest(one, scope);
      const args = one.args.map((argument) => plainText(scalar(argument, scope), argument.type));
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

/** A list: bound as one where all members are literals, else built of its members. */
function list({ members, type }: Extract<CheckedScalar, { kind: 'list' }>, scope: Scope): SQL {
  const values = members.flatMap((one) => (one.kind === 'value' ? [one.value] : []));
  const bound =
    values.length === members.length
      ? sql.param(values)
      : sql`array[${sql.join(
          members.map((one) => scalar(one, scope)),
          sql`, `,
        )}]`;
  const cast = castOf(type);
  return cast === undefined ? bound : sql`${bound}::${cast}`;
}

/** Two lists of one type are compared in it; others in the widest type of their members' kind. */
function listTest({ name, args }: Extract<CheckedScalar, { kind: 'function' }>, scope: Scope): SQL {
  const [left, right] = args;
  const texts = args.map(({ type }) => castOf(type)?.write().text);
  const own = texts[0] !== undefined && texts[0] === texts[1];
  const cast = own || left === undefined ? undefined : widestList(left.type);
  const [a = sql`null`, b = sql`null`] = [left, right].map((one) => {
    const value = one === undefined ? sql`null` : scalar(one, scope);
    return cast === undefined ? value : sql`${value}::${cast}`;
  });
  return compute(name as Exclude<typeof name, 'bin'>, [a, b]);
}

function widestList(type: ColumnType): SQL | undefined {
  const element = type.kind === 'array' ? type.element : type;
  switch (element.kind) {
    case 'integer':
    case 'numeric':
      return sql`numeric[]`;
    case 'float':
      return sql`float8[]`;
    case 'text':
      return sql`text[]`;
    case 'time':
      return sql`timetz[]`;
    case 'timestamp':
      return sql`timestamptz[]`;
    default:
      return undefined;
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
