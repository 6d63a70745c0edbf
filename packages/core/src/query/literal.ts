import { number, text, type Expression } from '../expression/index.ts';
import { isNumeric, type ColumnDescription } from '../schema/index.ts';

const nowhere = { start: 0, end: 0 };

/** A value of a column in the notation of conditions, as a literal of its type. */
export function literal(value: string, { type }: ColumnDescription): Expression {
  if (isNumeric(type)) return number(value);
  if (type.kind === 'boolean') return { kind: 'boolean', value: value === 'true', span: nowhere };
  if (type.kind === 'date') return { kind: 'date', value, span: nowhere };
  if (type.kind === 'timestamp') {
    return { kind: value.includes('T') ? 'timestamp' : 'date', value, span: nowhere };
  }
  return text(value);
}

/** A literal in the notation of conditions; undefined for what is none. */
export function literalText(expression: Expression): string | undefined {
  switch (expression.kind) {
    case 'text':
    case 'number':
    case 'date':
    case 'timestamp':
      return expression.value;
    case 'boolean':
      return String(expression.value);
    default:
      return undefined;
  }
}
