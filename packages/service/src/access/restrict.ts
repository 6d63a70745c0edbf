import { checkQuery, columnNamed, type CheckedExpression } from '@ephoros/core/check';
import { parseExpression } from '@ephoros/core/expression';
import { nearest } from '@ephoros/core/problem';
import {
  withReferences,
  type ColumnDescription,
  type TableDescription,
  type TableWriting,
  type Tables,
} from '@ephoros/core/schema';
import { onlyRows } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import { remarksOf, withOpening, type Catalog, type Published } from '../catalog/index.ts';
import { AccessError, type Access, type TableAccess } from './access.ts';

/** The tables as some callers see them, whatever rows they see. */
interface Shape {
  readonly tables: ReadonlyMap<string, Published>;
  readonly describe: Tables;
}

const mostShapes = 500;
const shapes = new WeakMap<Catalog, LRUCache<string, Shape>>();

/**
 * The catalog as a caller may see it. What is hidden is not in it, so that nothing that reads a
 * catalog can tell that it is there; rows come through the rules wherever they are read.
 * @throws AccessError
 */
export function restrict(catalog: Catalog, { tables: named }: Access): Catalog {
  if (named === 'all') return catalog;
  // Programs in JavaScript leave out, or misspell, what the types ask for: then nothing is shown.
  const allowed = soundly(isRecord(named) ? named : {});
  const { tables, describe } = shapeOf(catalog, allowed);
  const rules = rulesOf(catalog, allowed);
  const locate = onlyRows(catalog.locate, rules);
  return {
    title: catalog.title,
    limits: catalog.limits,
    tables,
    describe,
    locate: (table) => {
      if (!tables.has(table)) throw new Error(`no table ${table} is to be seen`);
      return locate(table);
    },
    typeOf: catalog.typeOf,
    unicode: catalog.unicode,
    fingerprint: catalog.fingerprint,
    restricted: true,
    ruled: rules.size > 0,
  };
}

function isRecord(named: unknown): named is Exclude<Access['tables'], 'all'> {
  return typeof named === 'object' && named !== null;
}

type Allowed = Readonly<Record<string, TableAccess | true>>;

/** A member that is named and has no value is a mistake: without it more would be seen. */
function soundly(named: Exclude<Access['tables'], 'all'>): Allowed {
  const sound: Record<string, TableAccess | true> = {};
  for (const [table, access] of Object.entries(named)) {
    // Programs in JavaScript write what the types do not allow.
    if (access !== true && (typeof access !== 'object' || (access as unknown) === null)) continue;
    if (typeof access === 'object') {
      for (const [name, value] of Object.entries(access)) {
        if (value !== undefined && value !== null) continue;
        throw new AccessError(`The rules of access name ${name} of ${table}, but it is ${value}.`);
      }
    }
    sound[table] = access;
  }
  return sound;
}

/** Made once for all callers who see the same columns: descriptions are remembered by identity. */
function shapeOf(catalog: Catalog, allowed: Allowed): Shape {
  const known = shapes.get(catalog) ?? new LRUCache<string, Shape>({ max: mostShapes });
  shapes.set(catalog, known);
  const key = JSON.stringify(
    Object.entries(allowed).map(([name, access]) =>
      access === true
        ? [name]
        : [
            name,
            access.columns ?? null,
            access.hidden ?? null,
            access.rows !== undefined,
            access.changes ?? null,
          ],
    ),
  );
  const made = known.get(key) ?? shape(catalog, allowed);
  known.set(key, made);
  return made;
}

function shape(catalog: Catalog, allowed: Allowed): Shape {
  for (const name of Object.keys(allowed)) {
    if (!catalog.tables.has(name)) throw unknown('table', name, catalog.tables.keys());
  }
  const seen = new Map(
    [...catalog.tables].flatMap(([name, published]): [string, Published][] => {
      const access = Object.hasOwn(allowed, name) ? allowed[name] : undefined;
      if (access === undefined) return [];
      const own = access === true ? {} : access;
      return [[name, { ...published, description: withColumns(published.description, own) }]];
    }),
  );
  // Relationships need the columns of both sides; what is searched, those of related tables.
  for (const [name, published] of seen) {
    const description = withRelationships(published.description, seen);
    seen.set(name, { ...published, description });
  }
  const describe: Tables = (table) => seen.get(table)?.description;
  for (const [name, published] of seen) {
    const { description } = published;
    const search = description.search.filter(
      (column) => columnNamed(column, description, describe) !== undefined,
    );
    const described = withReferences({ ...description, search }, describe);
    // What speaks of columns that are not seen is not told either.
    const opened = withOpening(described, described, describe);
    seen.set(name, { ...published, description: opened });
  }
  return { tables: seen, describe };
}

function withColumns(table: TableDescription, access: TableAccess): TableDescription {
  const known = table.columns.map(({ name }) => name);
  const { changes } = access;
  const change = changes === false ? undefined : changes?.change;
  const changed: readonly string[] = typeof change === 'object' ? change : [];
  for (const name of [...(access.columns ?? []), ...(access.hidden ?? []), ...changed]) {
    if (!known.includes(name)) throw unknown(`column of ${table.name}`, name, known);
  }
  const only = access.columns === undefined ? undefined : new Set(access.columns);
  const hidden = new Set(access.hidden);
  const columns = table.columns.filter(
    ({ name }) => (only === undefined || only.has(name)) && !hidden.has(name),
  );
  const there = new Set(columns.map(({ name }) => name));
  const key = table.key.every((name) => there.has(name)) ? table.key : [];
  const { label, sections, changes: _changes, ...rest } = table;
  const may = changesOf(table, columns, key, access);
  const seenSections = sections
    ?.map((one) => ({ ...one, columns: one.columns.filter((name) => there.has(name)) }))
    .filter((one) => one.columns.length > 0);
  return {
    ...rest,
    ...(seenSections === undefined ? {} : { sections: seenSections }),
    ...(label !== undefined && there.has(label) ? { label } : {}),
    columns: columns.map((column) =>
      narrowed(column, may === undefined ? { changes: false } : access),
    ),
    ...(may === undefined ? {} : { changes: may }),
    key,
    remarks: remarksOf(key),
    defaultSort: table.defaultSort.filter(({ column }) => there.has(column)),
    // What the planner knows, it knows of all rows.
    estimatedRows: access.rows === undefined ? table.estimatedRows : null,
  };
}

/** What the caller may change of what can be changed at all. */
function changesOf(
  table: TableDescription,
  columns: readonly ColumnDescription[],
  key: readonly string[],
  { changes }: TableAccess,
): TableWriting | undefined {
  const { changes: allowed } = table;
  if (allowed === undefined || changes === false || key.length === 0) return undefined;
  const own = changes ?? { add: true, change: true, remove: true };
  const there = new Set(columns.map(({ name }) => name));
  // What must have a value and is hidden could be given none.
  const whole = table.columns.every(
    ({ name, writing }) => writing?.required !== true || there.has(name),
  );
  const kinds = {
    add: allowed.add && own.add === true && whole,
    change:
      allowed.change &&
      columns.some((column) => narrowed(column, { changes: own }).writing?.change === true),
    remove: allowed.remove && own.remove === true,
  };
  return kinds.add || kinds.change || kinds.remove ? { ...allowed, ...kinds } : undefined;
}

function narrowed(
  column: ColumnDescription,
  { changes }: Pick<TableAccess, 'changes'>,
): ColumnDescription {
  if (changes === undefined || column.writing === undefined) return column;
  const { writing, ...rest } = column;
  const { add, change, required, ...others } = writing;
  const may = changes === false ? {} : changes;
  const adds = add === true && may.add === true;
  const names = typeof may.change === 'object' ? may.change : undefined;
  const alters = change === true && (names?.includes(column.name) ?? may.change === true);
  if (!adds && !alters) return rest;
  return {
    ...rest,
    writing: {
      ...others,
      ...(adds ? { add: true, ...(required && { required }) } : {}),
      ...(alters ? { change: true } : {}),
    },
  };
}

function withRelationships(
  table: TableDescription,
  seen: ReadonlyMap<string, Published>,
): TableDescription {
  const has = (name: string, columns: readonly string[]): boolean => {
    const there = seen.get(name)?.description.columns ?? [];
    return columns.every((column) => there.some((one) => one.name === column));
  };
  const relationships = table.relationships.filter(
    ({ table: other, columns, references }) =>
      seen.has(other) && has(table.name, columns) && has(other, references),
  );
  return { ...table, relationships };
}

/** Rules are the program's own: they are checked against the whole tables. */
function rulesOf(catalog: Catalog, allowed: Allowed): ReadonlyMap<string, CheckedExpression> {
  const rules = new Map<string, CheckedExpression>();
  for (const [name, access] of Object.entries(allowed)) {
    const rows = access === true ? undefined : access.rows;
    const description = catalog.describe(name);
    if (rows === undefined || description === undefined) continue;
    const text = typeof rows === 'string' ? rows : rows.text;
    const parsed = parseExpression(text, catalog.limits);
    const checked =
      'problems' in parsed
        ? parsed
        : checkQuery({ filter: parsed.expression }, description, {
            tables: catalog.describe,
            unicode: catalog.unicode,
          });
    if ('problems' in checked) {
      const told = checked.problems.map(({ message }) => message).join(' ');
      throw new AccessError(`The row rule of ${name} cannot be used: ${told}`);
    }
    const filter = 'checked' in checked ? checked.checked.filter : undefined;
    if (filter !== undefined) rules.set(name, filter);
  }
  return rules;
}

function unknown(what: string, name: string, known: Iterable<string>): AccessError {
  const near = nearest(name, known);
  return new AccessError(
    `The rules of access name a ${what} that there is not: ${name}${near === undefined ? '' : `; perhaps ${near}`}`,
  );
}
