import { sql, type SQL } from './fragment.ts';
import type { CheckedSortTerm } from '../check/index.ts';
import { comparable, valueOf } from './cast.ts';
import type { ColumnNames } from './column-names.ts';

/** A term of the order with the value that a cursor has for it, or will have. */
export interface Position {
  readonly term: CheckedSortTerm;
  readonly value: string | SQL | null;
}

/**
 * The rows behind a position in the order of its terms. The first term's column has a value in
 * every row looked at, or is never null. In one direction throughout a row comparison, which an
 * index answers; otherwise term by term, behind a bound that an index answers.
 */
export function behind(positions: readonly Position[], scope: ColumnNames): SQL {
  const [first] = positions;
  if (first === undefined) return sql`false`;
  const { descending } = first.term;
  if (isPlain(positions)) return asRows(positions, descending ? sql`<` : sql`>`, scope);
  const anyStep = termByTerm(positions, scope, true);
  if (first.value === null) return anyStep;
  const bound = descending ? sql`<=` : sql`>=`;
  const limit = valueOf(first.value, first.term.column.type);
  return sql`${compared(first.term, scope)} ${bound} ${limit} and ${anyStep}`;
}

/**
 * The rows up to a position, with its own: what is not behind it. No column may be null in the rows
 * looked at.
 */
export function upTo(positions: readonly Position[], scope: ColumnNames): SQL {
  const [first] = positions;
  if (first === undefined || first.value === null) return sql`true`;
  const { descending, column } = first.term;
  const within = descending ? sql`>=` : sql`<=`;
  if (isPlain(positions)) return asRows(positions, within, scope);
  const bound = sql`${compared(first.term, scope)} ${within} ${valueOf(first.value, column.type)}`;
  return sql`${bound} and not ${termByTerm(positions, scope, true)}`;
}

/** Whether a comparison of rows says it: one direction throughout, and no nulls. */
function isPlain(positions: readonly Position[]): boolean {
  const descending = positions[0]?.term.descending;
  return positions.every(
    ({ term, value }, index) =>
      value !== null && term.descending === descending && (index === 0 || !term.column.nullable),
  );
}

function asRows(positions: readonly Position[], comparator: SQL, scope: ColumnNames): SQL {
  const names = positions.map(({ term }) => compared(term, scope));
  const values = positions.map(({ term, value }) => valueOf(value ?? '', term.column.type));
  return sql`(${sql.join(names, sql`, `)}) ${comparator} (${sql.join(values, sql`, `)})`;
}

/** The rows behind a position where any column may be null in any row, and no index would answer a bound. */
export function behindAnywhere(positions: readonly Position[], scope: ColumnNames): SQL {
  return termByTerm(positions, scope, false);
}

function termByTerm(positions: readonly Position[], scope: ColumnNames, valued: boolean): SQL {
  const steps = positions.map((position, index) => {
    const same = positions.slice(0, index).map((one) => equal(one, scope));
    return sql`(${sql.join([...same, beyond(position, scope, valued && index === 0)], sql` and `)})`;
  });
  return sql`(${sql.join(steps, sql` or `)})`;
}

function compared({ column }: CheckedSortTerm, scope: ColumnNames): SQL {
  return comparable(scope.column(column), column.type);
}

function equal({ term, value }: Position, scope: ColumnNames): SQL {
  const name = compared(term, scope);
  return value === null ? sql`${name} is null` : sql`${name} = ${valueOf(value, term.column.type)}`;
}

/** Rows whose own value of this term comes later. */
function beyond({ term, value }: Position, scope: ColumnNames, valued: boolean): SQL {
  const { column, descending, nulls } = term;
  const name = compared(term, scope);
  if (value === null) return nulls === 'first' ? sql`${name} is not null` : sql`false`;
  const later = sql`${name} ${descending ? sql`<` : sql`>`} ${valueOf(value, column.type)}`;
  return column.nullable && !valued && nulls === 'last'
    ? sql`(${later} or ${name} is null)`
    : later;
}
