import { nearest, problem, type Problem } from '../problem/index.ts';
import { spoken, type Name } from '../query/index.ts';
import type { ColumnDescription, Relationship, TableDescription } from '../schema/index.ts';
import type { CheckedColumn } from './checked.ts';

/** The other published tables, by name; undefined for those that there are not. */
export type Tables = (name: string) => TableDescription | undefined;

const remembered = new WeakMap<TableDescription, ReadonlyMap<string, CheckedColumn>>();

/** A table's own columns by name, as queries use them; made once for each description. */
export function ownColumns(table: TableDescription): ReadonlyMap<string, CheckedColumn> {
  const known = remembered.get(table);
  if (known !== undefined) return known;
  const columns = new Map(
    table.columns.map((column) => [column.name, { ...column, path: [], own: column.name }]),
  );
  remembered.set(table, columns);
  return columns;
}

const related = new WeakMap<Tables, WeakMap<TableDescription, Map<string, CheckedColumn>>>();
const mostRemembered = 1_000;

/** The related columns of a table that were found before, among the same tables. */
function relatedColumns(table: TableDescription, tables: Tables): Map<string, CheckedColumn> {
  const among = related.get(tables) ?? new WeakMap<TableDescription, Map<string, CheckedColumn>>();
  related.set(tables, among);
  const columns = among.get(table) ?? new Map<string, CheckedColumn>();
  among.set(table, columns);
  return columns;
}

/** A column by its name or its path; undefined where there is none. */
export function columnNamed(
  name: string,
  table: TableDescription,
  tables: Tables,
): CheckedColumn | undefined {
  return new Lookup(table, tables).column({ name, span: { start: 0, end: 0 } }, []);
}

/** The columns of the tables that a row refers to, over so many foreign keys at most. */
export function columnsAround(
  table: TableDescription,
  tables: Tables,
  steps: number,
): readonly CheckedColumn[] {
  const paths = pathsFrom(table, tables, steps);
  return paths.flatMap(({ names, there }) =>
    there.columns.flatMap(
      ({ name }) => columnNamed([...names, name].join('.'), table, tables) ?? [],
    ),
  );
}

interface Reached {
  readonly names: readonly string[];
  readonly there: TableDescription;
}

function pathsFrom(table: TableDescription, tables: Tables, steps: number): readonly Reached[] {
  if (steps === 0) return [];
  return toOne(table).flatMap(({ name, table: other }) => {
    const there = tables(other);
    if (there === undefined) return [];
    const further = pathsFrom(there, tables, steps - 1);
    return [
      { names: [name], there },
      ...further.map((one) => ({ ...one, names: [name, ...one.names] })),
    ];
  });
}

/** Foreign keys followed by one name at most. */
const mostSteps = 8;

/** Foreign keys followed by one question at most: each is a join. */
const mostJoins = 40;

/** Looks names up from one table, along its foreign keys. */
export class Lookup {
  private readonly joins = new Set<string>();
  readonly table: TableDescription;
  readonly tables: Tables;
  /** Whether the database keeps texts in UTF-8, as functions of letters need it. */
  readonly unicode: boolean;
  private readonly related: Map<string, CheckedColumn>;

  constructor(table: TableDescription, tables: Tables, unicode = true) {
    this.table = table;
    this.tables = tables;
    this.unicode = unicode;
    this.related = relatedColumns(table, tables);
  }

  /** A column by its name or its path, such as `lock.canal.name`; a problem where there is none. */
  column({ name, span }: Name, problems: Problem[]): CheckedColumn | undefined {
    const own = ownColumns(this.table).get(name);
    if (own !== undefined) return own;
    const known = this.related.get(name);
    if (known !== undefined) return this.joined(known, span, problems);
    const found = this.follow(name, this.table, []);
    if ('path' in found) {
      const { path, column: there } = found;
      const label = path.length === 0 ? there.label : this.labelOf(path, there.label);
      const column = {
        ...there,
        name,
        label,
        path,
        own: there.name,
        nullable: true,
        indexed: false,
      };
      // Foreign keys that go in circles have paths without end.
      if (this.related.size === mostRemembered) this.related.clear();
      this.related.set(name, column);
      return this.joined(column, span, problems);
    }
    const { passed, table, rest } = found;
    const last = rest.split('.').at(-1) ?? '';
    const candidates = [
      ...table.columns.map((column) => column.name),
      ...toOne(table).map((one) => `${one.name}.${last}`),
    ];
    const near = nearest(rest, candidates);
    const meant = near === undefined || near === rest ? undefined : [...passed, near].join('.');
    problems.push(problem('unknown-column', { name: rest, table: table.name, near: meant }, span));
    return undefined;
  }

  /** Counts the foreign keys on the way to a column; a problem where they become too many. */
  private joined(
    column: CheckedColumn,
    span: Name['span'],
    problems: Problem[],
  ): CheckedColumn | undefined {
    const names = column.path.map((step) => step.name);
    names.forEach((_name, at) => this.joins.add(JSON.stringify(names.slice(0, at + 1))));
    if (this.joins.size <= mostJoins) return column;
    problems.push(problem('too-many-related', { most: mostJoins }, span));
    return undefined;
  }

  /**
   * Follows a name along foreign keys, also those with dots in their own names; where it leads
   * nowhere, how far it led.
   */
  private follow(
    rest: string,
    table: TableDescription,
    path: readonly Relationship[],
  ):
    | { readonly path: readonly Relationship[]; readonly column: ColumnDescription }
    | {
        readonly passed: readonly string[];
        readonly table: TableDescription;
        readonly rest: string;
      } {
    const own = table.columns.find((column) => column.name === rest);
    if (own !== undefined) return { path, column: own };
    let furthest = { passed: path.map(({ name }) => name), table, rest };
    if (path.length === mostSteps) return furthest;
    for (const relationship of toOne(table)) {
      if (!rest.startsWith(`${relationship.name}.`)) continue;
      const next = this.tables(relationship.table);
      if (next === undefined) continue;
      const further = this.follow(rest.slice(relationship.name.length + 1), next, [
        ...path,
        relationship,
      ]);
      if ('path' in further) return further;
      if (further.passed.length > furthest.passed.length)
        furthest = { ...further, passed: [...further.passed] };
    }
    return furthest;
  }

  /** A referring table by the name of its relationship. */
  referring(
    { name, span }: Name,
    problems: Problem[],
  ): { relationship: Relationship; inside: Lookup } | undefined {
    const known = this.table.relationships.filter(({ kind }) => kind === 'many');
    const relationship = known.find((one) => one.name === name);
    const table = relationship && this.tables(relationship.table);
    if (relationship !== undefined && table !== undefined) {
      return { relationship, inside: new Lookup(table, this.tables, this.unicode) };
    }
    const names = known.map((one) => one.name);
    const facts = {
      name,
      table: this.table.name,
      near: nearest(name, names),
      known: names.join(', ') || 'none',
    };
    problems.push(problem('unknown-relationship', facts, span));
    return undefined;
  }

  /** "Lock canal name": the labels of the columns that refer, then the column's own. */
  private labelOf(path: readonly Relationship[], label: string): string {
    let { table } = this;
    const labels = path.map((step) => {
      const column = table.columns.find((one) => one.name === step.columns[0]);
      table = this.tables(step.table) ?? table;
      // Of a foreign key that nobody has given a name the last word says nothing.
      return column?.label.replace(/ id$/i, '') ?? step.name;
    });
    return [...labels, label].map((one, place) => (place === 0 ? one : spoken(one))).join(' ');
  }
}

function toOne({ relationships }: TableDescription): readonly Relationship[] {
  return relationships.filter(({ kind }) => kind === 'one');
}
