import { sql, type SQL } from 'drizzle-orm';
import { PgDialect } from 'drizzle-orm/pg-core';

/** Where a published table lies in the database. */
export interface Relation {
  readonly schema: string;
  readonly name: string;
}

/** A statement as it is sent: text without any value, and the values bound to $1, $2, … */
export interface Statement {
  readonly text: string;
  /** A text, or a list of texts for `= ANY ($n)`. */
  readonly parameters: readonly (string | number | readonly string[])[];
}

const dialect = new PgDialect();

/** Writes a composed statement down. */
export function write(statement: SQL): Statement {
  const { sql: text, params } = dialect.sqlToQuery(statement);
  // Values come from `valueOf` and limits only, which make no other kinds.
  return Object.freeze({ text, parameters: params as Statement['parameters'] });
}

/** The relation's name, quoted. */
export function relationName({ schema, name }: Relation): SQL {
  return sql`${sql.identifier(schema)}.${sql.identifier(name)}`;
}

/** A column's name, quoted. All identifiers pass here or through `relationName`. */
export function columnName(name: string): SQL {
  return sql`${sql.identifier(name)}`;
}
