import { sql, type SQL } from 'drizzle-orm';
import type { CheckedExpression, CheckedScalar } from '../check/index.ts';
import type { Comparator } from '../expression/index.ts';
import type { ColumnType } from '../schema/index.ts';
import { columnName } from './statement.ts';

const comparators: Readonly<Record<Comparator, SQL>> = {
  '=': sql` = `,
  '<>': sql` <> `,
  '<': sql` < `,
  '<=': sql` <= `,
  '>': sql` > `,
  '>=': sql` >= `,
};

/** A condition in SQL. An empty OR is false, an empty AND true; null follows SQL's own logic. */
export function condition(expression: CheckedExpression): SQL {
  switch (expression.kind) {
    case 'and':
      return junction(expression.operands, sql` and `, sql`true`);
    case 'or':
      return junction(expression.operands, sql` or `, sql`false`);
    case 'not':
      return sql`not (${condition(expression.operand)})`;
    case 'comparison': {
      const { left, comparator, right } = expression;
      return sql`${scalar(left)}${comparators[comparator]}${scalar(right)}`;
    }
    case 'between': {
      const { operand, low, high } = expression;
      return sql`${scalar(operand)} between ${scalar(low)} and ${scalar(high)}`;
    }
    case 'in':
      return membership(expression.operand, expression.members);
    case 'like':
      return sql`${scalar(expression.operand)} like ${scalar(expression.pattern)}`;
    case 'isNull':
      return sql`${scalar(expression.operand)} is null`;
    case 'truth':
      return scalar(expression.operand);
    default:
      throw new Error(`no SQL for ${JSON.stringify(expression satisfies never)}`);
  }
}

function junction(operands: readonly CheckedExpression[], by: SQL, none: SQL): SQL {
  if (operands.length === 0) return none;
  return sql`(${sql.join(operands.map(condition), by)})`;
}

/** One bound list where all members are values of one type, so that the text stays short. */
function membership(operand: CheckedScalar, members: readonly CheckedScalar[]): SQL {
  const [first] = members;
  if (first === undefined) return sql`false`;
  const values = members.flatMap((one) =>
    one.kind === 'value' && first.kind === 'value' && sameCast(one.type, first.type)
      ? [one.value]
      : [],
  );
  if (first.kind === 'value' && values.length === members.length && operand.kind === 'column') {
    const cast = castOf(first.type);
    const list = sql`${sql.param(values)}`;
    return cast === undefined
      ? sql`${scalar(operand)} = any(${list})`
      : sql`${scalar(operand)} = any(${list}::${cast}[])`;
  }
  return sql`${scalar(operand)} in (${sql.join(members.map(scalar), sql`, `)})`;
}

function sameCast(one: ColumnType, other: ColumnType): boolean {
  return (
    one.kind === other.kind && ('bits' in one ? 'bits' in other && one.bits === other.bits : true)
  );
}

function scalar(one: CheckedScalar): SQL {
  switch (one.kind) {
    case 'column':
      return columnName(one.column.name);
    case 'value':
      return valueOf(one.value, one.type);
    case 'casei':
      return sql`lower(${scalar(one.operand)})`;
    default:
      throw new Error(`no SQL for ${JSON.stringify(one satisfies never)}`);
  }
}

/** All values pass here: bound, and cast where the type is the language's own. */
export function valueOf(value: string, type: ColumnType): SQL {
  const cast = castOf(type);
  return cast === undefined ? sql`${value}` : sql`${value}::${cast}`;
}

/**
 * The SQL type a value is cast to; undefined where the value takes the type of the column that
 * it is compared with (enums, whose type has the database's own name).
 */
function castOf(type: ColumnType): SQL | undefined {
  switch (type.kind) {
    case 'integer':
      return { 16: sql`int2`, 32: sql`int4`, 64: sql`int8` }[type.bits];
    case 'numeric':
      return sql`numeric`;
    case 'float':
      return sql`float8`;
    case 'text':
      return sql`text`;
    case 'boolean':
      return sql`boolean`;
    case 'date':
      return sql`date`;
    case 'time':
      return type.zone ? sql`timetz` : sql`time`;
    case 'timestamp':
      return type.zone ? sql`timestamptz` : sql`timestamp`;
    case 'interval':
      return sql`interval`;
    case 'uuid':
      return sql`uuid`;
    case 'enum':
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return undefined;
    default:
      throw new Error(`no cast for ${JSON.stringify(type satisfies never)}`);
  }
}
