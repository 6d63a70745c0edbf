import { sql, type Bound, type Open, type SQL } from './fragment.ts';

/** Where a published table lies in the database. */
export interface Relation {
  readonly schema: string;
  readonly name: string;
  /** PostgreSQL's type ids of its columns, by name; of a domain that of its base type. */
  readonly types?: ReadonlyMap<string, number>;
  /**
   * Only some of its rows, as a statement in parentheses; all of them where it is absent.
   * Fenced, nothing outside of it is computed of the other rows.
   */
  readonly only?: (fenced: boolean) => SQL;
  /** What `only` lets through of rows that are given instead of the table's own. */
  readonly over?: (rows: SQL) => SQL;
  /** All names that stand in the rule of `only`: its columns, and more. */
  readonly names?: ReadonlySet<string>;
  /** The further tables that this statement reads. */
  readonly reads?: readonly string[];
}

/** A statement as it is sent: text without any value, and the values bound to $1, $2, … */
export interface Statement {
  readonly text: string;
  /** A text, or a list of texts for `= ANY ($n)`. */
  readonly parameters: readonly Bound[];
  /** Whether one plan serves all values; else it is planned for those that are bound. */
  readonly isGeneric?: boolean;
}

/** Writes a composed statement down. */
export function write(statement: SQL, isGeneric = false): Statement {
  const { text, parameters } = fill(writeTemplate(statement), {});
  return Object.freeze(isGeneric ? { text, parameters, isGeneric } : { text, parameters });
}

/** A statement of which some values are not known yet; plain data, as statements are. */
export interface Template {
  readonly text: string;
  readonly parameters: readonly (Bound | Open)[];
}

/** Writes a composed statement down that has open values. */
export function writeTemplate(statement: SQL): Template {
  const { text, values } = statement.write();
  return Object.freeze({ text, parameters: values });
}

/** The statement with the open values, by name. All of them must be given. */
export function fill(
  { text, parameters }: Template,
  values: Readonly<Record<string, Bound>>,
): Statement {
  const bound = parameters.map((one) => {
    if (typeof one !== 'object' || !('open' in one)) return one;
    const value = values[one.open];
    if (value === undefined) throw new Error(`no value for ${one.open}`);
    return value;
  });
  return Object.freeze({ text, parameters: bound });
}

/** The relation's name, quoted. */
export function relationName({ schema, name }: Relation): SQL {
  return sql`${sql.identifier(schema)}.${sql.identifier(name)}`;
}

/** The same as text, such as PostgreSQL's `regclass` reads it. */
export function qualifiedName(relation: Relation): string {
  return write(relationName(relation)).text;
}
