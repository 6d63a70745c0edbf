import type { PathValue } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { typeName, type ColumnType } from '../schema/index.ts';
import { isWrittenAs } from './notation.ts';
import { literalType, valueAs, type Literal } from './value.ts';

type Value = Exclude<PathValue, { kind: 'null' }>;

/** The literal of the filter language that a value of an answer is. */
export function literalOf({ span, ...value }: Value, type: ColumnType): Literal {
  switch (value.kind) {
    case 'number':
      return { kind: 'number', value: value.value, span };
    case 'boolean':
      return { kind: 'boolean', value: value.value, span };
    case 'string':
      return { ...ofText(value.value, type), span };
    default:
      throw new Error(`unknown value ${JSON.stringify(value satisfies never)}`);
  }
}

function ofText(
  value: string,
  type: ColumnType,
): { kind: 'text' | 'number' | 'date' | 'timestamp'; value: string } {
  switch (type.kind) {
    case 'date':
      return { kind: 'date', value };
    case 'timestamp':
      return { kind: 'timestamp', value: type.zone ? value : `${value}Z` };
    case 'integer':
    case 'numeric':
    case 'float':
      return /^-?\d+(?:\.\d+)?(?:e[+-]?\d+)?$/i.test(value)
        ? { kind: 'number', value }
        : { kind: 'text', value };
    default:
      return { kind: 'text', value };
  }
}

/**
 * A value of an answer in PostgreSQL's notation; or what is wrong with it. What the filter language
 * cannot spell (NaN, infinities, years before Christ, negative intervals) answers have in
 * PostgreSQL's own spelling, and it is taken in that.
 */
export function pathValueAs(value: Value, type: ColumnType): string | Problem {
  const literal = literalOf(value, type);
  const read = valueAs(literal, type);
  if ('value' in read) return read.value;
  if (value.kind === 'string' && isWrittenAs(value.value, type) && !isPlainDay(value.value)) {
    return value.value;
  }
  if (read.problem.code !== 'type-mismatch') return read.problem;
  const found = value.kind === 'string' ? 'text' : typeName(literalType(literal));
  return problem('type-mismatch', { expected: `a ${typeName(type)}`, found: `a ${found}` });
}

/** A day that the filter language could spell, were there such a day. */
function isPlainDay(text: string): boolean {
  return /^\d{4}-/.test(text) && !text.endsWith('BC');
}
