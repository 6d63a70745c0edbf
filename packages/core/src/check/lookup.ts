import { nearest, problem, type Problem } from '../problem/index.ts';
import type { Name } from '../query/index.ts';
import {
  findColumn,
  toOne,
  type Relationship,
  type TableDescription,
  type Tables,
} from '../schema/index.ts';
import type { CheckedColumn } from './checked.ts';
import type { ResolvedSelections } from './resolved-selections.ts';

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

  /** What is selected and stored; nothing by default. */
  readonly storedSelections: ResolvedSelections;

  constructor(
    table: TableDescription,
    tables: Tables,
    unicode = true,
    storedSelections: ResolvedSelections = () => 'nowhere',
  ) {
    this.storedSelections = storedSelections;
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
    const found = findColumn(name, this.table, this.tables);
    if ('path' in found) {
      // Foreign keys that go in circles have paths without end.
      if (this.related.size === mostRemembered) this.related.clear();
      this.related.set(name, found);
      return this.joined(found, span, problems);
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

  /** A referring table by the name of its relationship. */
  referring(
    { name, span }: Name,
    problems: Problem[],
  ): { relationship: Relationship; inside: Lookup } | undefined {
    const known = this.table.relationships.filter(({ kind }) => kind === 'many');
    const relationship = known.find((one) => one.name === name);
    const table = relationship && this.tables(relationship.table);
    if (relationship !== undefined && table !== undefined) {
      return {
        relationship,
        inside: new Lookup(table, this.tables, this.unicode, this.storedSelections),
      };
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
}
