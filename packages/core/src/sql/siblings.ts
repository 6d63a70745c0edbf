import type {
  CheckedColumn,
  CheckedExpression,
  CheckedQuery,
  CheckedScalar,
} from '../check/index.ts';
import type { ColumnType } from '../schema/index.ts';

/** A query as one of those that differ only in the values that some columns are held to: so do the groups of a level. */
export interface Sibling {
  /** All of them at once, sorted by these columns first. */
  readonly all: CheckedQuery;
  readonly by: readonly CheckedColumn[];
  /** The values of this one, as PostgreSQL writes them. */
  readonly values: readonly (string | null)[];
}

/** Which siblings a query has; undefined where its filter holds no column to one value. */
export function siblingOf(query: CheckedQuery): Sibling | undefined {
  const { filter, ...unfiltered } = query;
  if (filter === undefined) return undefined;
  const held: { column: CheckedColumn; value: string | null }[] = [];
  const others = operandsOf(filter).filter((one) => {
    const found = heldBy(one);
    if (found === undefined || held.some(({ column }) => column.name === found.column.name)) {
      return true;
    }
    held.push(found);
    return false;
  });
  if (held.length === 0) return undefined;
  // However the conditions were put in order.
  held.sort((one, other) => (one.column.name < other.column.name ? -1 : 1));
  const by = held.map(({ column }) => column);
  const leading = by.map((column) => ({ column, descending: false, nulls: 'last' as const }));
  const rest = others.length === 0 ? {} : { filter: { kind: 'and' as const, operands: others } };
  const all = { ...unfiltered, ...rest, anchor: undefined, sort: [...leading, ...query.sort] };
  return { all, by, values: held.map(({ value }) => value) };
}

function operandsOf(filter: CheckedExpression): readonly CheckedExpression[] {
  return filter.kind === 'and' ? filter.operands.flatMap(operandsOf) : [filter];
}

function heldBy(
  condition: CheckedExpression,
): { column: CheckedColumn; value: string | null } | undefined {
  if (condition.kind === 'isNull') return held(condition.operand, null);
  if (condition.kind !== 'comparison' || condition.comparator !== '=') return undefined;
  const { left, right } = condition;
  if (right.kind === 'value') return held(left, writtenAs(right.value, right.type));
  return left.kind === 'value' ? held(right, writtenAs(left.value, left.type)) : undefined;
}

function held(
  scalar: CheckedScalar,
  value: string | null,
): { column: CheckedColumn; value: string | null } | undefined {
  if (scalar.kind !== 'column' || scalar.column.ranks !== undefined) return undefined;
  return isWrittenOneWay(scalar.type) ? { column: scalar.column, value } : undefined;
}

/** Whether equal values of a type are written in the same way: one text is one group. */
function isWrittenOneWay({ kind, databaseType, domain, nondeterministic }: ColumnType): boolean {
  if (domain === true || nondeterministic === true) return false;
  if (kind === 'enum') return true;
  return (
    databaseType === undefined && ['integer', 'text', 'boolean', 'date', 'uuid'].includes(kind)
  );
}

/** A value as PostgreSQL writes it. */
function writtenAs(value: string, { kind }: ColumnType): string {
  return kind === 'boolean' ? value.slice(0, 1) : value;
}
