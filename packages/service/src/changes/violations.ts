import { problem, type Problem } from '@ephoros/core/problem';
import { spoken } from '@ephoros/core/schema';
import { compileConstrained } from '@ephoros/core/sql';
import type pg from 'pg';
import type { Catalog, Published } from '../catalog/index.ts';
import type { Transaction } from './writer.ts';

/** A problem and the column that it is about, where there is one. */
export interface Violation {
  readonly problem: Problem;
  readonly column?: string | undefined;
}

/** What was to be written. */
export interface Violated {
  readonly published: Published;
  readonly kind: 'add' | 'change' | 'remove';
  /** What a table of the database is called, where the caller may see it. */
  readonly titleOf: (schema: string, table: string) => string | undefined;
  /** Where rows of the tables are found, as far as the caller sees them. */
  readonly locate: Catalog['locate'];
}

/**
 * What the database stated about a change, in people's words: never SQL, never values. What a trigger
 * says with an error of its own is reported as it is, for its author wrote it for people.
 */
export async function violationOf(
  thrown: pg.DatabaseError,
  { published: { description, writing }, kind, titleOf, locate }: Violated,
  inside: Transaction,
): Promise<Violation> {
  const { code = '', constraint = '', message, column } = thrown;
  const text = constraint === '' ? undefined : writing?.messages[constraint];
  const label = (name: string): string =>
    description.columns.find((one) => one.name === name)?.label ?? '';
  const named = async (): Promise<{ names: string; first: string | undefined }> => {
    const columns = await constraintNamed(constraint, thrown, inside);
    const shown = columns.filter((name) => label(name) !== '');
    return { names: shown.map((name) => spoken(label(name))).join(', '), first: shown[0] };
  };
  switch (code) {
    case '23505': {
      const { names, first } = await named();
      return {
        problem: problem('value-taken', { names: names || 'value', message: text }),
        column: first,
      };
    }
    case '23503': {
      // The constraint is of the table that refers: another one, where this row was to go.
      if (kind === 'remove' || thrown.table !== writing?.inDatabase) {
        const table = titleOf(thrown.schema ?? '', thrown.table ?? '') ?? 'another table';
        return { problem: problem('still-referenced', { table, message: text }) };
      }
      const columns = await constraintNamed(constraint, thrown, inside);
      // A row that is hidden from the caller is as one that there is not: neither has words of its own.
      const hides = refersToHidden(description, columns, locate);
      return unknownReference(description, columns, hides ? undefined : text);
    }
    case '23502': {
      const name = label(column ?? '') || 'A column';
      return {
        problem: problem('missing-value', { name }),
        column: shownName(column, description),
      };
    }
    case '23P01': {
      const { names, first } = await named();
      return { problem: problem('overlaps-another', { names, message: text }), column: first };
    }
    case '23514':
    case '23000':
    case '44000': {
      const columns = constraint === '' ? [] : await constraintNamed(constraint, thrown, inside);
      const first = columns.find((one) => label(one) !== '');
      // The name of a constraint on hidden columns would tell of them.
      const isHidden = columns.some((one) => label(one) === '');
      const name = constraint === '' || isHidden ? 'check' : constraint;
      return { problem: problem('constraint-broken', { name, message: text }), column: first };
    }
    case '42501':
      return { problem: problem('outside-row-rule', { table: description.name }) };
    default:
      // Of values and their limits the text would quote them; of a trigger it is the text.
      if (/^2|^54/.test(code)) return { problem: problem('value-refused', { message: text }) };
      return {
        problem: problem('refused-by-trigger', { message: text ?? message, hint: thrown.hint }),
        column: shownName(column, description),
      };
  }
}

/** That columns refer to a row that there is not for the caller. */
export function unknownReference(
  { columns: all }: Published['description'],
  columns: readonly string[],
  message: string | undefined,
): Violation {
  const shown = columns.flatMap((name) => all.find((one) => one.name === name) ?? []);
  const names = shown.map(({ label }) => spoken(label)).join(', ');
  return {
    problem: problem('unknown-reference', { names: names || 'value', message }),
    column: shown[0]?.name,
  };
}

/** Whether columns refer to a table with rows that are hidden from the caller. */
function refersToHidden(
  { relationships }: Published['description'],
  columns: readonly string[],
  locate: Catalog['locate'],
): boolean {
  const found = relationships.find(
    ({ kind, columns: own }) =>
      kind === 'one' &&
      own.length === columns.length &&
      own.every((name) => columns.includes(name)),
  );
  return found !== undefined && locate(found.table).only !== undefined;
}

/** What a table is called for a caller who sees all its rows: else it would say that there are others. */
export function titleIfWhole(
  { locate }: Catalog,
  published: Published | undefined,
): string | undefined {
  if (published === undefined) return undefined;
  const { name, title } = published.description;
  return locate(name).only === undefined ? title : undefined;
}

function shownName(
  name: string | undefined,
  { columns }: Published['description'],
): string | undefined {
  return columns.find((one) => one.name === name)?.name;
}

/** The columns of a constraint or a unique index; none where nobody can tell. */
async function constraintNamed(
  name: string,
  { schema = '', table = '' }: pg.DatabaseError,
  inside: Transaction,
): Promise<readonly string[]> {
  const { rows } = await inside.run(compileConstrained({ schema, table }, name));
  return rows.flatMap(([column]) => column ?? []);
}
