import { and, compare, not, property, text, type Expression } from '../expression/index.ts';
import { isComparable, type ColumnDescription } from '../schema/index.ts';
import { literal } from './literal.ts';

/** One term of a total order. */
export interface OrderTerm {
  readonly column: ColumnDescription;
  readonly descending: boolean;
  /** Where rows without a value stand. */
  readonly nulls: 'first' | 'last';
}

/** The sort values of a row, as rows hold them; null where it has none. */
export type OrderedRow = Readonly<Record<string, unknown>>;

const nowhere = { start: 0, end: 0 };

/**
 * The rows from one row to another in an order, both among them, as a condition: whatever comes to
 * lie between them later meets it, too. Undefined where the values of a term cannot be compared.
 */
export function betweenRows(
  terms: readonly OrderTerm[],
  first: OrderedRow,
  last: OrderedRow,
): Expression | undefined {
  if (terms.some(({ column: { type } }) => !isComparable(type) || type.kind === 'boolean')) {
    return undefined;
  }
  const ends = [beyond(terms, first, 'behind'), beyond(terms, last, 'before')];
  return and(ends.map((operands) => ({ kind: 'or' as const, operands, span: nowhere })));
}

/** The row itself, and those on one side of it: one case for each term by which they may differ. */
function beyond(
  terms: readonly OrderTerm[],
  row: OrderedRow,
  side: 'before' | 'behind',
): readonly Expression[] {
  const cases = terms.flatMap((term, index) => {
    const differs = onSide(term, row[term.column.name] ?? null, side);
    if (differs === undefined) return [];
    const same = terms.slice(0, index).map((one) => sameAs(one, row));
    return and([...same, differs]) ?? [];
  });
  const itself = and(terms.map((term) => sameAs(term, row)));
  return itself === undefined ? cases : [...cases, itself];
}

function sameAs({ column }: OrderTerm, row: OrderedRow): Expression {
  const value = row[column.name] ?? null;
  return value === null
    ? missing(column)
    : compare(property(column.name), '=', written(value, column));
}

/** What stands on one side of a value in the order of a term; undefined where nothing does. */
function onSide(
  { column, descending, nulls }: OrderTerm,
  value: unknown,
  side: 'before' | 'behind',
): Expression | undefined {
  // Rows without a value are all on one side of those with one.
  const nullsHere = column.nullable && (nulls === 'first') === (side === 'before');
  if (value === null) return nullsHere ? undefined : not(missing(column));
  const less = (side === 'before') !== descending;
  const further = compare(property(column.name), less ? '<' : '>', written(value, column));
  return nullsHere ? { kind: 'or', operands: [further, missing(column)], span: nowhere } : further;
}

function missing({ name }: ColumnDescription): Expression {
  return { kind: 'isNull', operand: property(name), span: nowhere };
}

/** A value as rows hold it, exactly. */
function written(value: unknown, column: ColumnDescription): Expression {
  const exact = typeof value === 'string' ? value : JSON.stringify(value);
  // What is no number has no other spelling.
  return /^-?(?:NaN|Infinity)$/.test(exact) ? text(exact) : literal(exact, column);
}
